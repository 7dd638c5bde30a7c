// The real program on a database of its own, started and stopped by the tests.
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export const root = join(import.meta.dirname, '..')
const program = join(root, 'bin', 'proscen')

let usual = 0
/**
 * A port that nobody listens on: the one of the server before, when it is free again, so
 * that browsers know what they have compiled of it.
 */
async function freePort(): Promise<number> {
  const ask = (port: number) =>
    new Promise<number>((done, fail) => {
      const s = createServer().once('error', fail)
      s.listen(port, '127.0.0.1', () => {
        const { port } = s.address() as { port: number }
        s.close(() => done(port))
      })
    })
  return (usual = await ask(usual).catch(() => ask(0)))
}

export class Server {
  readonly dir = mkdtempSync(join(tmpdir(), 'proscen-e2e-'))
  readonly blobs = join(this.dir, 'blobs')
  private database: string
  private name: string
  private process?: ChildProcess
  private constructor(
    private port: number,
    private demonstration: boolean,
  ) {
    const base = process.env.DATABASE_URL
    if (!base) throw new Error('DATABASE_URL is not set: run these tests with ‘make test’')
    this.name = `e2e_${Date.now().toString(36)}${port}`
    const u = new URL(base)
    const made = demonstration && process.env.E2E_DEMONSTRATION?.split(' ')
    this.sql(`create database ${this.name}${made ? ` template ${made[0]}` : ''}`)
    if (made) cpSync(made[1]!, this.blobs, { recursive: true })
    u.pathname = `/${this.name}`
    this.database = u.toString()
  }

  /** Starts a server with the demonstration, or on an empty database. */
  static async start(demonstration = true): Promise<Server> {
    const s = new Server(await freePort(), demonstration)
    await s.up()
    return s
  }
  /** Makes the demonstration, with which servers begin from then on; returns what takes it away. */
  static async demonstrate(): Promise<() => Promise<void>> {
    const s = await Server.start()
    await s.down()
    process.env.E2E_DEMONSTRATION = `${s.name} ${s.blobs}`
    return () => s.end()
  }
  get url() {
    return `http://127.0.0.1:${this.port}`
  }
  private sql(text: string) {
    execFileSync('psql', [process.env.DATABASE_URL!, '-qc', text])
  }
  async up() {
    this.process = spawn(
      program,
      [
        'serve',
        ...(this.demonstration ? ['--demo'] : []),
        ...['--listen', `127.0.0.1:${this.port}`, '--database', this.database, '--blobs', this.blobs],
      ],
      {
        stdio: ['ignore', 'ignore', 'inherit'],
      },
    )
    for (const end = Date.now() + 60_000; Date.now() < end;) {
      if (
        await fetch(`${this.url}/api/health`).then(
          (r) => r.ok,
          () => false,
        )
      )
        return
      await new Promise((r) => setTimeout(r, 50))
    }
    throw new Error('the server does not come up')
  }
  async down(how: 'SIGTERM' | 'SIGKILL' = 'SIGTERM') {
    const p = this.process
    this.process = undefined
    if (!p || p.exitCode !== null) return
    const ended = new Promise((r) => p.once('exit', r))
    p.kill(how)
    await ended
  }
  async end() {
    await this.down()
    this.sql(`drop database ${this.name} with (force)`)
    rmSync(this.dir, { recursive: true, force: true })
  }

  async get<T>(path: string): Promise<T> {
    const r = await fetch(`${this.url}/api${path}`)
    if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`)
    return (await r.json()) as T
  }
  async post(path: string, body: unknown): Promise<Response> {
    return fetch(`${this.url}/api${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
  }
  /** The id of the demonstration scene. */
  async demo(): Promise<string> {
    const all = await this.get<{ id: string; title: string }[]>('/scenes')
    return all.find((s) => s.title === 'Last Car Down')!.id
  }
  /** Makes another scene like one, and returns its id. */
  async copy(scene: string): Promise<string> {
    const r = await this.post(`/scenes/${scene}/copies`, {})
    if (!r.ok) throw new Error(`a copy: ${r.status} ${await r.text()}`)
    return ((await r.json()) as { id: string }).id
  }
  async document(scene: string): Promise<{
    revision: number
    document: Record<string, Record<string, Record<string, unknown>>>
  }> {
    return this.get(`/scenes/${scene}`)
  }
  /** Applies one change as if from elsewhere. */
  async edit(
    scene: string,
    collection: string,
    id: string,
    change: (before: Record<string, unknown>) => Record<string, unknown>,
  ) {
    const before = (await this.document(scene)).document[collection]![id]!
    await this.patch(scene, [{ collection, id, before, after: change(before) }])
  }
  /** Applies several at once, and returns the revision that they make. */
  async patch(scene: string, patch: { collection: string; id: string; before?: unknown; after?: unknown }[]) {
    const { revision } = await this.document(scene)
    const r = await this.post(`/scenes/${scene}/edits`, {
      id: `elsewhere-${revision}-${Math.random().toString(36).slice(2)}`,
      author: 'somebody else',
      base: revision,
      label: 'from elsewhere',
      kind: 'do',
      patch,
    })
    if (!r.ok) throw new Error(await r.text())
    return revision + 1
  }
}

/** A camera node at a place, as the server keeps it. */
export const cameraNode = (name: string, position: number[], turn: number[], focal = 24) => ({
  kind: 'camera',
  name,
  position,
  turn,
  camera: {
    number: 1,
    color: '#6fa8dc',
    support: 'sticks',
    aim: 'free',
    framing: [0, 0],
    sensor: [24.89, 18.66],
    focal,
    stop: 4,
    focus: 6,
  },
})
