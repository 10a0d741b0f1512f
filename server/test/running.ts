import { mkdtempSync, rmSync } from 'node:fs'
import type { Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sugarBeetDraft } from '@canter/demo'
import type { FieldRecord, TrialFile } from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import { createApplication, type Application } from '../src/application.ts'

export const PERSON = '00000000-0000-7000-8000-000000000001'

/** A server on a free port over a database of its own. */
export class Running {
  readonly application: Application
  readonly server: Server
  readonly folder: string

  private constructor(application: Application, server: Server, folder: string) {
    this.application = application
    this.server = server
    this.folder = folder
  }

  static async start(folder = mkdtempSync(join(tmpdir(), 'canter-'))): Promise<Running> {
    const application = await createApplication({ database: join(folder, 'test.sqlite') })
    return new Running(application, await application.listen(0), folder)
  }

  get address(): string {
    const address = this.server.address()
    return `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`
  }

  async call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
    const raw = typeof body === 'string' || body instanceof Uint8Array
    const response = await fetch(this.address + path, {
      method,
      headers: { ...(body === undefined || raw ? {} : { 'Content-Type': 'application/json' }), ...headers },
      ...(body === undefined ? {} : { body: raw ? (body as string) : JSON.stringify(body) }),
    })
    const type = response.headers.get('content-type') ?? ''
    return { status: response.status, type, body: (type.includes('json') ? await response.json() : await response.arrayBuffer()) as never }
  }

  /** A trial laid out and ready to measure. */
  async laidOut(): Promise<TrialFile> {
    const created = (await this.call('POST', '/api/trials', sugarBeetDraft)).body as TrialFile
    const path = `/api/trials/${created.trial.id}/sites/hazel-bank/layout`
    return (await this.call('POST', path, { version: 1, seed: 41 })).body
  }

  /** Changes fields of a section as it stands. */
  async edit(file: TrialFile, section: string, patch: object, more: object = {}) {
    const version = file.trial.versions[section]
    return this.call('PATCH', `/api/trials/${file.trial.id}/sections/${section}`, { version, patch, ...more })
  }

  async stop(keep = false): Promise<void> {
    await this.application.close()
    if (!keep) rmSync(this.folder, { recursive: true, force: true })
  }
}

export function reading(unit: string, value: number, more: Partial<FieldRecord & { type: 'reading' }> = {}): FieldRecord {
  return {
    type: 'reading',
    id: uuidv7(),
    at: '2026-10-06T08:00:00.000Z',
    person: PERSON,
    device: 'test',
    unit,
    trait: 'gross-weight',
    visit: 'harvest',
    sample: 1,
    observer: PERSON,
    value: { kind: 'number', value, typed: String(value), typedMeasure: null },
    supersedes: [],
    confirmed: false,
    ...more,
  }
}
