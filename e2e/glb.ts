// Writes a small glTF 2.0 binary from scratch: a striped banner with a skin of
// two joints and a clip that folds it, its picture made here too.
import { deflateSync } from 'node:zlib'

function crc(bytes: Buffer): number {
  let c = ~0
  for (const b of bytes) {
    c ^= b
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1
  }
  return ~c >>> 0
}
function chunk(name: string, body: Buffer): Buffer {
  const head = Buffer.alloc(4)
  head.writeUInt32BE(body.length)
  const named = Buffer.concat([Buffer.from(name), body])
  const tail = Buffer.alloc(4)
  tail.writeUInt32BE(crc(named))
  return Buffer.concat([head, named, tail])
}
/** A PNG of rows of red, green, blue. */
export function png(width: number, height: number, at: (x: number, y: number) => [number, number, number]): Buffer {
  const rows: Buffer[] = []
  for (let y = 0; y < height; y++) {
    const row = [0]
    for (let x = 0; x < width; x++) row.push(...at(x, y))
    rows.push(Buffer.from(row))
  }
  const size = Buffer.alloc(13)
  size.writeUInt32BE(width, 0)
  size.writeUInt32BE(height, 4)
  size.set([8, 2, 0, 0, 0], 8)
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', size),
    chunk('IDAT', deflateSync(Buffer.concat(rows))),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

/** A banner of two by three metres, pure magenta over pure green, that folds in a second. */
export function banner(): Buffer {
  const parts: Buffer[] = []
  const views: object[] = []
  let length = 0
  const put = (b: Buffer) => {
    const pad = (4 - (length % 4)) % 4
    parts.push(Buffer.alloc(pad), b)
    length += pad
    views.push({ buffer: 0, byteOffset: length, byteLength: b.length })
    length += b.length
    return views.length - 1
  }
  const accessors: object[] = []
  const list = (type: string, componentType: number, count: number, data: ArrayBufferView) => {
    const bufferView = put(Buffer.from(data.buffer, data.byteOffset, data.byteLength))
    accessors.push({ bufferView, componentType, count, type })
    return accessors.length - 1
  }
  const picture = put(png(8, 8, (_, y) => (y < 4 ? [255, 0, 255] : [0, 255, 0])))
  const attributes = {
    POSITION: list('VEC3', 5126, 6, new Float32Array([-1, 0, 0, 1, 0, 0, -1, 1.5, 0, 1, 1.5, 0, -1, 3, 0, 1, 3, 0])),
    NORMAL: list('VEC3', 5126, 6, new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1])),
    TEXCOORD_0: list('VEC2', 5126, 6, new Float32Array([0, 1, 1, 1, 0, 0.5, 1, 0.5, 0, 0, 1, 0])),
    JOINTS_0: list(
      'VEC4',
      5121,
      6,
      new Uint8Array([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]),
    ),
    WEIGHTS_0: list('VEC4', 5126, 6, new Float32Array(Array.from({ length: 24 }, (_, i) => (i % 4 ? 0 : 1)))),
  }
  const indices = list('SCALAR', 5123, 12, new Uint16Array([0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4]))
  const rest = new Float32Array(32)
  for (const j of [0, 1]) for (let k = 0; k < 4; k++) rest[j * 16 + k * 5] = 1
  rest[16 + 13] = -1.5
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [{ mesh: 0, skin: 0 }, { children: [2] }, { translation: [0, 1.5, 0] }],
    meshes: [{ primitives: [{ attributes, indices, material: 0 }] }],
    materials: [{ doubleSided: true, pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
    textures: [{ source: 0 }],
    images: [{ bufferView: picture, mimeType: 'image/png' }],
    skins: [{ joints: [1, 2], inverseBindMatrices: list('MAT4', 5126, 2, rest) }],
    animations: [
      {
        name: 'fold',
        channels: [{ sampler: 0, target: { node: 2, path: 'rotation' } }],
        samplers: [
          {
            input: list('SCALAR', 5126, 2, new Float32Array([0, 1])),
            output: list('VEC4', 5126, 2, new Float32Array([0, 0, 0, 1, 1, 0, 0, 0])),
          },
        ],
      },
    ],
    accessors,
    bufferViews: views,
    buffers: [{ byteLength: length }],
  }
  let text = Buffer.from(JSON.stringify(json))
  text = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, ' ')])
  const body = Buffer.concat([...parts, Buffer.alloc((4 - (length % 4)) % 4)])
  const head = Buffer.alloc(20)
  head.write('glTF')
  head.writeUInt32LE(2, 4)
  head.writeUInt32LE(28 + text.length + body.length, 8)
  head.writeUInt32LE(text.length, 12)
  head.write('JSON', 16)
  const second = Buffer.alloc(8)
  second.writeUInt32LE(body.length, 0)
  second.write('BIN\0', 4)
  return Buffer.concat([head, text, second, body])
}
