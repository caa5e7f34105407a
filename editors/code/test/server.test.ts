// The built server, spoken to by the protocol's own library. DULK names the program and FOLDER the demo with its faults.

import assert from 'node:assert/strict'
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { test } from 'node:test'
import { pathToFileURL } from 'node:url'

import {
  CodeActionRequest,
  CompletionRequest,
  DidOpenTextDocumentNotification,
  ExitNotification,
  HoverRequest,
  InitializeRequest,
  InitializedNotification,
  PublishDiagnosticsNotification,
  type PublishDiagnosticsParams,
  ShutdownRequest,
  StreamMessageReader,
  StreamMessageWriter,
  type CompletionList,
  createProtocolConnection,
} from 'vscode-languageserver-protocol/node'

import { SERVE } from '../src/program'

const program = process.env.DULK
const folder = process.env.FOLDER

test('the server is started as the extension does, and speaks', { skip: program === undefined || folder === undefined }, async () => {
  const server = spawn(program!, [...SERVE, '--today', '2026-11-25'], { stdio: ['pipe', 'pipe', 'inherit'] })
  const ended = new Promise<number | null>((resolve) => server.on('exit', resolve))
  const connection = createProtocolConnection(new StreamMessageReader(server.stdout), new StreamMessageWriter(server.stdin))
  const path = join(folder!, '.github', 'workflows', 'preview.yml')
  const uri = pathToFileURL(path).href
  const text = readFileSync(path, 'utf8')
  const told = new Promise<PublishDiagnosticsParams>((resolve) => {
    connection.onNotification(PublishDiagnosticsNotification.type, (params) => {
      if (params.uri === uri && params.diagnostics.length > 0) resolve(params)
    })
  })
  connection.listen()
  const root = pathToFileURL(folder!).href
  const can = await connection.sendRequest(InitializeRequest.type, {
    processId: process.pid,
    rootUri: root,
    workspaceFolders: [{ uri: root, name: 'demo' }],
    capabilities: { textDocument: { codeAction: { codeActionLiteralSupport: { codeActionKind: { valueSet: ['quickfix'] } } } } },
    initializationOptions: { inlayHints: true, codeLens: true },
  })
  assert.equal(can.serverInfo?.name, 'dulk')
  await connection.sendNotification(InitializedNotification.type, {})
  await connection.sendNotification(DidOpenTextDocumentNotification.type, {
    textDocument: { uri, languageId: 'yaml', version: 1, text },
  })
  const rules = (await told).diagnostics.map((one) => one.code)
  assert.ok(rules.includes('order.absent-job'), rules.join())

  const line = text.split('\n').findIndex((one) => one.includes('biuld'))
  const character = text.split('\n')[line]!.indexOf('biuld')
  const place = { textDocument: { uri }, position: { line, character } }
  const offers = (await connection.sendRequest(CompletionRequest.type, { ...place, context: { triggerKind: 1 } })) as CompletionList
  assert.ok(offers.items.some((item) => item.label === 'build'))
  const job = text.split('\n').findIndex((one) => one.includes('build:'))
  const words = await connection.sendRequest(HoverRequest.type, { textDocument: { uri }, position: { line: job, character: 3 } })
  assert.match(JSON.stringify(words), /Job/)
  const range = { start: place.position, end: place.position }
  const actions = await connection.sendRequest(CodeActionRequest.type, { textDocument: { uri }, range, context: { diagnostics: [] } })
  assert.ok(actions?.some((action) => 'isPreferred' in action && action.isPreferred))
  await connection.sendRequest(ShutdownRequest.type)
  await connection.sendNotification(ExitNotification.type)
  assert.equal(await ended, 0)
})
