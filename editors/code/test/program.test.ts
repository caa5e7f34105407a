import assert from 'node:assert/strict'
import { delimiter, join } from 'node:path'
import { test } from 'node:test'

import { type Disk, type Surroundings, findProgram } from '../src/program'

const around: Surroundings = {
  setting: '',
  folders: ['/quay'],
  trusted: true,
  platform: 'linux',
  arch: 'x64',
  path: ['/usr/bin', '', '/opt/bin'].join(delimiter),
}
const installed = join('/quay', 'node_modules', '@dulk', 'linux-x64', 'dulk')
const onPath = join('/opt/bin', 'dulk')
const among = (...known: string[]): Disk => ({ exists: (path) => known.includes(path), real: () => undefined })

test('what the user has set comes first, then what the workspace has, then the path', () => {
  assert.equal(findProgram({ ...around, setting: '/my/dulk' }, among(installed)), '/my/dulk')
  assert.equal(findProgram(around, among(installed, onPath)), installed)
  assert.equal(findProgram(around, among(onPath)), onPath)
  assert.equal(findProgram(around, among()), undefined)
})

test('where each package lies apart, the program is beside the one that brings it', () => {
  const store = '/quay/node_modules/.store/dulk@1/node_modules'
  const program = join(store, '@dulk', 'linux-x64', 'dulk')
  assert.equal(findProgram(around, { ...among(program), real: () => join(store, 'dulk') }), program)
})

test('what a workspace brings is not started before it is trusted', () => {
  assert.equal(findProgram({ ...around, trusted: false }, among(installed)), undefined)
  assert.equal(findProgram({ ...around, trusted: false }, among(installed, onPath)), onPath)
})

test('on Windows the program has another name', () => {
  const program = join('/opt/bin', 'dulk.exe')
  assert.equal(findProgram({ ...around, platform: 'win32' }, among(program)), program)
})
