// Loads the real core, compiled to WebAssembly, once for each test file.
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { config } from '@vue/test-utils'
import { beforeAll } from 'vitest'
import { arrows } from '@/ui/arrows'
import { typed } from '@/ui/typed'

config.global.directives = { arrows, typed }
const dir = join(process.cwd(), 'wasm')

beforeAll(async () => {
  if (globalThis.proscenCore) return
  createRequire(import.meta.url)(join(dir, 'wasm_exec.js'))
  const ready = new Promise<void>((done) => (globalThis.proscenCoreReady = done))
  const go = new globalThis.Go()
  const { instance } = await WebAssembly.instantiate(readFileSync(join(dir, 'core.wasm')), go.importObject)
  void go.run(instance)
  await ready
})
