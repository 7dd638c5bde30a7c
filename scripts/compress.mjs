// Compresses what is built, as it is sent: FILE.br and FILE.gz beside each file. The
// core is kept compressed only, since it is large. What has not changed is taken from
// a folder of earlier results.
import { createHash } from 'node:crypto'
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'

const [folder, cache] = process.argv.slice(2)
mkdirSync(cache, { recursive: true })
const how = {
  // The last two steps take ten times as long for an eighth less.
  br: (b) =>
    brotliCompressSync(b, {
      params: {
        [constants.BROTLI_PARAM_QUALITY]: 9,
        [constants.BROTLI_PARAM_LGWIN]: 24,
        [constants.BROTLI_PARAM_NPOSTFIX]: 2, // what repeats in the core does so at whole words
        [constants.BROTLI_PARAM_SIZE_HINT]: b.length,
      },
    }),
  gz: (b) => gzipSync(b, { level: 9 }),
}
const used = new Set()
for (const name of readdirSync(folder)) {
  if (!/\.(js|css|wasm)$/.test(name)) continue
  const file = join(folder, name)
  const body = readFileSync(file)
  for (const [ending, compress] of Object.entries(how)) {
    const kept = join(cache, `${createHash('sha256').update(body).digest('hex')}.${ending}`)
    used.add(kept)
    if (!existsSync(kept)) writeFileSync(kept, compress(body))
    copyFileSync(kept, `${file}.${ending}`)
  }
  if (name.endsWith('.wasm')) {
    rmSync(file)
    const mb = (n) => (n / 1e6).toFixed(2)
    console.error(`core: ${mb(body.length)} MB, ${mb(statSync(`${file}.br`).size)} MB with brotli, ${mb(statSync(`${file}.gz`).size)} MB with gzip`)
  }
}
for (const name of readdirSync(cache)) if (!used.has(join(cache, name))) rmSync(join(cache, name))
