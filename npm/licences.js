'use strict'

// The licences of everything that a program is made of: one text, and the page of the standard library's own.
//
//     node npm/licences.js TARGET FOLDER     writes both into a folder

const { execFileSync } = require('child_process')
const fs = require('fs')
const path = require('path')

const TEXT = 'licences.txt'
const LIBRARY = 'licences-standard-library.html'
const NAMES = /^(licen[cs]e|copying|copyright|notice|unlicense)/i

/** The packages that end up inside the program: what it is linked with, not what only takes part in the build. */
function linked(top, target) {
  const args = ['metadata', '--format-version', '1', '--locked', '--filter-platform', target]
  const metadata = JSON.parse(execFileSync('cargo', args, { cwd: top, maxBuffer: 1 << 28 }))
  const packages = new Map(metadata.packages.map((one) => [one.id, one]))
  const nodes = new Map(metadata.resolve.nodes.map((one) => [one.id, one]))
  const runsInBuild = (one) => one.targets.some((target) => target.kind.includes('proc-macro'))
  const found = new Set()
  const waiting = metadata.packages.filter((one) => one.name === 'dulk').map((one) => one.id)
  while (waiting.length > 0) {
    const id = waiting.pop()
    if (found.has(id) || runsInBuild(packages.get(id))) continue
    found.add(id)
    for (const dependency of nodes.get(id).deps) {
      if (dependency.dep_kinds.some(({ kind }) => kind === null)) waiting.push(dependency.pkg)
    }
  }
  return [...found].map((id) => packages.get(id)).filter((one) => one.source !== null)
}

/** The texts that a package brings. */
function texts(one) {
  const folder = path.dirname(one.manifest_path)
  const files = fs.readdirSync(folder).filter((name) => NAMES.test(name) && fs.statSync(path.join(folder, name)).isFile())
  if (one.license_file && !files.includes(one.license_file)) files.push(one.license_file)
  return files.sort().map((name) => fs.readFileSync(path.join(folder, name), 'utf8').replace(/\r\n/g, '\n').trim())
}

/** A package may declare a licence and bring no text of it: the compiler's own documents hold the texts of those. */
function declared(one, documents) {
  const names = (one.license || '').split(/ OR | AND |[/() ]+/).filter((name) => name !== '')
  const file = names.map((name) => path.join(documents, 'licenses', `${name}.txt`)).find((file) => fs.existsSync(file))
  if (!file) throw new Error(`${one.name} ${one.version} (${one.license}) brings no text of its licence`)
  return [fs.readFileSync(file, 'utf8').trim()]
}

/** What both hold, by their names. */
function licences(top, target) {
  const sysroot = execFileSync('rustc', ['--print', 'sysroot'], { encoding: 'utf8' }).trim()
  const documents = path.join(sysroot, 'share/doc/rust')
  const byText = new Map()
  for (const one of linked(top, target).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const found = texts(one)
    for (const text of found.length > 0 ? found : declared(one, documents)) {
      byText.set(text, [...(byText.get(text) || []), `${one.name} ${one.version} (${one.license})`])
    }
  }
  if (target.endsWith('-musl')) {
    byText.set(fs.readFileSync(path.join(__dirname, 'licence-musl.txt'), 'utf8').trim(), ['musl (MIT)'])
  }
  const line = '-'.repeat(100)
  const parts = [...byText].map(([text, users]) => `${line}\n${users.join('\n')}\n${line}\n\n${text}\n`)
  const head = `What the program dulk is made of besides its own code, and under which licences.\nThe Rust standard library: see ${LIBRARY}.\n`
  return {
    [TEXT]: Buffer.from(`${head}\n${parts.join('\n')}`),
    [LIBRARY]: fs.readFileSync(path.join(documents, 'COPYRIGHT-library.html')),
  }
}

module.exports = { licences }

if (require.main === module) {
  const [target, folder] = process.argv.slice(2)
  for (const [name, bytes] of Object.entries(licences(path.dirname(__dirname), target))) {
    fs.writeFileSync(path.join(folder, name), bytes)
  }
}
