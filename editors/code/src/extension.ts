// Starts the language server and keeps the user's wishes in step with it.

import * as vscode from 'vscode'
import { LanguageClient, type LanguageClientOptions, type ServerOptions } from 'vscode-languageclient/node'

import { LANGUAGES, SERVE, findProgram } from './program'

let client: LanguageClient | undefined

export async function activate(context: vscode.ExtensionContext): Promise<void> {
  context.subscriptions.push(
    vscode.commands.registerCommand('dulk.restart', restart),
    vscode.workspace.onDidGrantWorkspaceTrust(restart),
    vscode.workspace.onDidChangeConfiguration(async (change) => {
      if (change.affectsConfiguration('dulk.program')) await restart()
      else if (change.affectsConfiguration('dulk')) await client?.sendNotification('workspace/didChangeConfiguration', { settings: { dulk: wishes() } })
    }),
  )
  await start()
}

export async function deactivate(): Promise<void> {
  await client?.stop()
  client = undefined
}

async function restart(): Promise<void> {
  await deactivate()
  await start()
}

/** What the user wants of the server. */
function wishes(): object {
  const settings = vscode.workspace.getConfiguration('dulk')
  const pages = settings.get<string>('rulePages', '')
  return {
    inlayHints: settings.get<boolean>('inlayHints', true),
    codeLens: settings.get<boolean>('codeLens', true),
    ...(pages === '' ? {} : { rulePages: pages }),
  }
}

async function start(): Promise<void> {
  const program = findProgram({
    setting: vscode.workspace.getConfiguration('dulk').get<string>('program', ''),
    folders: (vscode.workspace.workspaceFolders ?? []).map((folder) => folder.uri.fsPath),
    trusted: vscode.workspace.isTrusted,
    platform: process.platform,
    arch: process.arch,
    path: process.env.PATH ?? '',
  })
  if (program === undefined) {
    const install = 'npm install --save-dev dulk'
    void vscode.window.showWarningMessage(`Dulk is not installed here. In the repository, \`${install}\` brings it; or set dulk.program.`)
    return
  }
  const server: ServerOptions = { command: program, args: [...SERVE] }
  const options: LanguageClientOptions = {
    documentSelector: LANGUAGES.map((language) => ({ scheme: 'file', language })),
    initializationOptions: wishes(),
  }
  client = new LanguageClient('dulk', 'Dulk', server, options)
  try {
    await client.start()
  } catch (reason) {
    client = undefined
    void vscode.window.showErrorMessage(`Dulk does not start: ${reason instanceof Error ? reason.message : String(reason)}`)
  }
}
