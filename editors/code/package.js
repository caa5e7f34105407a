'use strict'

// Makes the extension's package, out/dulk.vsix: one file of code, with the licences of all that went into it.

const { execFileSync } = require('node:child_process')
const fs = require('node:fs')
const path = require('node:path')

const own = ['LICENSE-APACHE', 'LICENSE-MIT']
const here = (name) => path.join(__dirname, name)
const run = (program, args) => execFileSync(program, args, { cwd: __dirname, stdio: 'inherit', shell: process.platform === 'win32' })

/** The licences of the packages that the built file was made of. */
function licences() {
  const { inputs } = JSON.parse(fs.readFileSync(here('out/parts.json'), 'utf8'))
  const used = Object.keys(inputs).flatMap((file) => file.match(/^.*node_modules\/(?:@[^/]+\/)?[^/]+/) ?? [])
  const told = [...new Set(used)].sort().map((folder) => {
    const { name, version, license } = JSON.parse(fs.readFileSync(here(path.join(folder, 'package.json')), 'utf8'))
    const file = fs.readdirSync(here(folder)).find((entry) => /^licen[cs]e/i.test(entry))
    if (file === undefined) throw new Error(`${name} has no licence among its files`)
    return `${name} ${version}, ${license}\n\n${fs.readFileSync(here(path.join(folder, file)), 'utf8').trim()}\n`
  })
  return told.join(`\n${'-'.repeat(80)}\n\n`)
}

run('npm', ['run', 'check'])
run('npm', ['run', 'build'])
fs.writeFileSync(here('out/licences.txt'), licences())
for (const name of own) fs.copyFileSync(path.join(__dirname, '..', '..', name), here(name))
try {
  const options = ['--no-dependencies', '--allow-missing-repository', '--skip-license', '--out', here('out/dulk.vsix')]
  run(process.execPath, [require.resolve('@vscode/vsce/vsce'), 'package', ...options])
} finally {
  for (const name of own) fs.rmSync(here(name), { force: true })
}
