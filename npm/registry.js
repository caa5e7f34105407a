'use strict'

// A small registry of packages on this machine, for tests: it offers the tarballs of a folder to npm, pnpm and yarn, and nothing else.
//
//     node npm/registry.js FOLDER     prints its address, and serves until standard input ends
//
// Packages for other platforms, which nobody has built here, are offered without a program: who installs them does not need it.

const { execFileSync } = require('child_process')
const { createHash } = require('crypto')
const fs = require('fs')
const http = require('http')
const os = require('os')
const path = require('path')

const built = process.argv[2]
const platforms = require('./platforms.json')
const elsewhere = fs.mkdtempSync(path.join(os.tmpdir(), 'dulk-elsewhere-'))
const LONG_AGO = '2020-01-01T00:00:00.000Z'

function digest(bytes, kind, form) {
  return createHash(kind).update(bytes).digest(form)
}

/** What is told of a package with this manifest in this tarball. */
function offered(manifest, bytes, url) {
  const dist = { tarball: url, shasum: digest(bytes, 'sha1', 'hex'), integrity: `sha512-${digest(bytes, 'sha512', 'base64')}` }
  return { ...manifest, dist }
}

/** Makes a package for another platform. */
function make(name, version) {
  const { os: system, cpu } = platforms[name]
  const manifest = { name: `@dulk/${name}`, version, os: [system], cpu: [cpu], preferUnplugged: true }
  fs.mkdirSync(path.join(elsewhere, 'package'), { recursive: true })
  fs.writeFileSync(path.join(elsewhere, 'package/package.json'), JSON.stringify(manifest))
  execFileSync('tar', ['-czf', path.join(elsewhere, `dulk-${name}-${version}.tgz`), '-C', elsewhere, 'package'])
}

function tarballs(folder) {
  const files = fs.readdirSync(folder).filter((name) => name.endsWith('.tgz')).map((name) => path.join(folder, name))
  return files.map((file) => ({ file, manifest: JSON.parse(execFileSync('tar', ['-xzOf', file, 'package/package.json'])) }))
}

/** What there is: the text that is told of each package, by its name, and its tarball, by the name of that. */
function shelf(address) {
  const here = tarballs(built)
  const names = here.map((one) => one.manifest.name)
  Object.keys(platforms).filter((name) => !names.includes(`@dulk/${name}`)).forEach((name) => make(name, here[0].manifest.version))
  const all = [...here, ...tarballs(elsewhere)]
  const told = ({ file, manifest }) => {
    const { name, version } = manifest
    const one = offered(manifest, fs.readFileSync(file), `${address}/-/${path.basename(file)}`)
    const time = { created: LONG_AGO, modified: LONG_AGO, [version]: LONG_AGO }
    return [name, JSON.stringify({ name, 'dist-tags': { latest: version }, versions: { [version]: one }, time })]
  }
  return { texts: new Map(all.map(told)), files: new Map(all.map(({ file }) => [`-/${path.basename(file)}`, file])) }
}

let offer
const server = http.createServer((request, response) => {
  const wanted = decodeURIComponent(new URL(request.url, 'http://localhost').pathname).slice(1)
  if (offer.texts.has(wanted)) {
    response.setHeader('content-type', 'application/json')
    response.end(offer.texts.get(wanted))
  } else if (offer.files.has(wanted)) {
    fs.createReadStream(offer.files.get(wanted)).pipe(response)
  } else {
    response.statusCode = 404
    response.end('{}')
  }
})

server.listen(0, '127.0.0.1', () => {
  const address = `http://127.0.0.1:${server.address().port}`
  offer = shelf(address)
  console.log(address)
})
process.on('exit', () => fs.rmSync(elsewhere, { recursive: true, force: true }))
process.stdin.on('end', () => process.exit(0)).resume()
