#!/usr/bin/env node
'use strict'

// Starts the program for this machine, which a package of its own brings, with everything as it was given to us.

const { spawnSync } = require('child_process')

const platform = `${process.platform}-${process.arch}`
const packaged = `@dulk/${platform}`

/** Ends in one line, as the program itself does when it cannot do what was asked. */
function fail(reason) {
  process.stderr.write(`dulk: ${reason}\n`)
  process.exit(2)
}

/** Where the program is. */
function program() {
  const file = process.platform === 'win32' ? 'dulk.exe' : 'dulk'
  try {
    return require.resolve(`${packaged}/${file}`)
  } catch {
    if (packaged in require('./package.json').optionalDependencies) {
      return fail(
        `the package ${packaged} is missing: what is installed here was installed on another kind of machine, or without optional packages; install again here, with npm: npm install --include=optional`
      )
    }
    return fail(`there is no ready-made program for ${platform}; on a machine with Rust, cargo install --path crates/cli builds it`)
  }
}

const path = program()
const ended = spawnSync(path, process.argv.slice(2), { stdio: 'inherit' })
if (ended.error) {
  fail(`${path} cannot be started: ${ended.error.code || ended.error.message}`)
}
if (ended.signal) {
  // Whoever waits for us sees the same end.
  process.kill(process.pid, ended.signal)
} else {
  process.exitCode = ended.status
}
