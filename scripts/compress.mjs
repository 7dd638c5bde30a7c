// Compresses what is built, as it is sent: FILE.br and FILE.gz beside each file of a
// folder. The core is kept compressed only, since it is large. What has not changed is
// taken from a folder of earlier results; a single file is only compressed into that.
import { createHash } from 'node:crypto'
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { brotliCompress, constants, gzip } from 'node:zlib'

const [what, cache] = process.argv.slice(2)
mkdirSync(cache, { recursive: true })
const how = {
  // The last step takes twice as long for 3 % less.
  br: (b) =>
    promisify(brotliCompress)(b, {
      params: {
        [constants.BROTLI_PARAM_QUALITY]: 10,
        [constants.BROTLI_PARAM_LGWIN]: 24,
        [constants.BROTLI_PARAM_NPOSTFIX]: 2, // what repeats in the core does so at whole words
        [constants.BROTLI_PARAM_SIZE_HINT]: b.length,
      },
    }),
  gz: (b) => promisify(gzip)(b, { level: 9 }),
}
/** Compresses a file in both ways, if that has not been done; returns where the results are kept. */
async function compressed(body) {
  const kept = {}
  await Promise.all(
    Object.entries(how).map(async ([ending, compress]) => {
      const name = (kept[ending] = `${createHash('sha256').update(body).digest('hex')}.10.${ending}`)
      if (existsSync(join(cache, name))) return
      writeFileSync(join(cache, `${name}.part`), await compress(body))
      renameSync(join(cache, `${name}.part`), join(cache, name))
    }),
  )
  return kept
}
if (!statSync(what).isDirectory()) {
  await compressed(readFileSync(what))
  process.exit()
}
const used = new Set()
for (const name of readdirSync(what)) {
  if (!/\.(js|css|wasm)$/.test(name)) continue
  const file = join(what, name)
  const body = readFileSync(file)
  for (const [ending, kept] of Object.entries(await compressed(body))) {
    used.add(kept)
    copyFileSync(join(cache, kept), `${file}.${ending}`)
  }
  if (name.endsWith('.wasm')) {
    rmSync(file)
    const mb = (n) => (n / 1e6).toFixed(2)
    console.error(`core: ${mb(body.length)} MB, ${mb(statSync(`${file}.br`).size)} MB with brotli, ${mb(statSync(`${file}.gz`).size)} MB with gzip`)
  }
}
for (const name of readdirSync(cache)) if (!used.has(name)) rmSync(join(cache, name))
