// Which program is started, and how: nothing of the editor is needed to tell.

import { existsSync, realpathSync } from 'node:fs'
import { delimiter, dirname, join } from 'node:path'

/** What is known when a program is looked for. */
export interface Surroundings {
  /** What the user has set; nothing when it is empty. */
  setting: string
  /** The folders of the workspace. */
  folders: readonly string[]
  /** The user trusts what lies in them. */
  trusted: boolean
  platform: NodeJS.Platform
  arch: string
  /** The path on which programs are looked for. */
  path: string
}

/** The name of the program's file. */
export function fileName(platform: NodeJS.Platform): string {
  return platform === 'win32' ? 'dulk.exe' : 'dulk'
}

/** Where the disk is asked. */
export interface Disk {
  exists(path: string): boolean
  /** Where a path leads, links followed; nothing when it leads nowhere. */
  real(path: string): string | undefined
}

const disk: Disk = {
  exists: existsSync,
  real: (path) => {
    try {
      return realpathSync(path)
    } catch {
      return undefined
    }
  },
}

/**
 * The program: what the user has set, what is installed in a folder that is trusted, or what lies on the path. The packages of npm hold it for one
 * platform each, so that it starts without another process before it.
 */
export function findProgram(around: Surroundings, on: Disk = disk): string | undefined {
  if (around.setting !== '') return around.setting
  const name = fileName(around.platform)
  const installed = around.trusted ? around.folders.flatMap((folder) => installedIn(folder, on)) : []
  const held = installed.map((packages) => join(packages, '@dulk', `${around.platform}-${around.arch}`, name))
  const onPath = around.path.split(delimiter).filter((folder) => folder !== '').map((folder) => join(folder, name))
  return [...held, ...onPath].find((path) => on.exists(path))
}

/** The folders of packages that belong to one: its own, and, where a manager lays each package apart, the one that `dulk` lies in. */
function installedIn(folder: string, on: Disk): string[] {
  const packages = join(folder, 'node_modules')
  const own = on.real(join(packages, 'dulk'))
  return own === undefined ? [packages] : [packages, dirname(own)]
}

/** The words that make it the language server. */
export const SERVE: readonly string[] = ['serve']

/** The languages of files that it may speak of; everything else in a workspace it reads by itself. */
export const LANGUAGES: readonly string[] = ['yaml', 'dockercompose', 'groovy', 'json', 'jsonc', 'toml', 'typescript', 'javascript', 'plaintext']
