import { defineConfig } from 'vite'

export default defineConfig({
  base: '/timetable/',
  build: {
    outDir: 'dist',
  },
})
