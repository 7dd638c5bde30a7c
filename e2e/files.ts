// Small files made by hand: a picture, a sound, a PDF of panels; what is in a delivered one.
import { execFileSync } from 'node:child_process'
import { deflateSync } from 'node:zlib'

function crc(data: Buffer): number {
  let c = ~0
  for (const b of data) {
    c ^= b
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1
  }
  return ~c >>> 0
}
function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type), data])
  const out = Buffer.alloc(8 + data.length + 4)
  out.writeUInt32BE(data.length, 0)
  body.copy(out, 4)
  out.writeUInt32BE(crc(body), 8 + data.length)
  return out
}

/** A PNG of one colour, 160 x 90. */
export function png(r: number, g: number, b: number): Buffer {
  const head = Buffer.alloc(13)
  head.writeUInt32BE(160, 0)
  head.writeUInt32BE(90, 4)
  head.set([8, 2, 0, 0, 0], 8)
  const row = Buffer.concat([Buffer.from([0]), Buffer.alloc(480, Buffer.from([r, g, b]))])
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(Buffer.concat(Array.from({ length: 90 }, () => row)))),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

/** A tone as WAV, mono, 8000 samples a second. */
export function wav(seconds: number): Buffer {
  const n = Math.round(seconds * 8000)
  const out = Buffer.alloc(44 + 2 * n)
  out.write('RIFF', 0)
  out.writeUInt32LE(36 + 2 * n, 4)
  out.write('WAVEfmt ', 8)
  out.writeUInt32LE(16, 16)
  out.writeUInt16LE(1, 20)
  out.writeUInt16LE(1, 22)
  out.writeUInt32LE(8000, 24)
  out.writeUInt32LE(16000, 28)
  out.writeUInt16LE(2, 32)
  out.writeUInt16LE(16, 34)
  out.write('data', 36)
  out.writeUInt32LE(2 * n, 40)
  for (let i = 0; i < n; i++) out.writeInt16LE(Math.round(12000 * Math.sin((i * 440 * 2 * Math.PI) / 8000)), 44 + 2 * i)
  return out
}

/** A PDF of pages of 160 x 90 points, each a grey of its own. */
export function pdf(pages: number): Buffer {
  let out = '%PDF-1.4\n'
  const at: number[] = []
  const object = (body: string) => {
    at.push(out.length)
    out += `${at.length} 0 obj\n${body}\nendobj\n`
  }
  object('<< /Type /Catalog /Pages 2 0 R >>')
  const kids = Array.from({ length: pages }, (_, i) => `${3 + 2 * i} 0 R`).join(' ')
  object(`<< /Type /Pages /Kids [${kids}] /Count ${pages} >>`)
  for (let i = 0; i < pages; i++) {
    const draw = `${(0.2 + 0.3 * i).toFixed(1)} g 0 0 160 90 re f`
    object(`<< /Type /Page /Parent 2 0 R /MediaBox [0 0 160 90] /Contents ${4 + 2 * i} 0 R >>`)
    object(`<< /Length ${draw.length} >>\nstream\n${draw}\nendstream`)
  }
  const start = out.length
  out += `xref\n0 ${at.length + 1}\n0000000000 65535 f \n`
  for (const a of at) out += `${String(a).padStart(10, '0')} 00000 n \n`
  out += `trailer << /Size ${at.length + 1} /Root 1 0 R >>\nstartxref\n${start}\n%%EOF\n`
  return Buffer.from(out, 'latin1')
}

/** The pixels of a frame of a video, three bytes each. */
export function videoFrame(file: string, n: number): Buffer {
  const pick = ['-vf', `select=eq(n\\,${n})`, '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-']
  return execFileSync('ffmpeg', ['-v', 'error', '-i', file, ...pick])
}
