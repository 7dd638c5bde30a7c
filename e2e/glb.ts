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
/** A PNG of rows of red, green, blue and, if they are given, how opaque. */
export function png(width: number, height: number, at: (x: number, y: number) => number[]): Buffer {
  const rows: Buffer[] = []
  for (let y = 0; y < height; y++) {
    const row = [0]
    for (let x = 0; x < width; x++) row.push(...at(x, y))
    rows.push(Buffer.from(row))
  }
  const size = Buffer.alloc(13)
  size.writeUInt32BE(width, 0)
  size.writeUInt32BE(height, 4)
  size.set([8, at(0, 0).length > 3 ? 6 : 2, 0, 0, 0], 8)
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', size),
    chunk('IDAT', deflateSync(Buffer.concat(rows))),
    chunk('IEND', Buffer.alloc(0)),
  ])
}

/** A glTF binary as it grows: numbers and pictures, and what they are used for. */
class Writer {
  private parts: Buffer[] = []
  private views: object[] = []
  private accessors: object[] = []
  private length = 0

  /** Takes bytes over and returns the number of their view. */
  put(b: Buffer): number {
    const pad = (4 - (this.length % 4)) % 4
    this.parts.push(Buffer.alloc(pad), b)
    this.length += pad
    this.views.push({ buffer: 0, byteOffset: this.length, byteLength: b.length })
    this.length += b.length
    return this.views.length - 1
  }
  /** Takes a list of numbers over and returns that of its accessor. */
  list(type: string, componentType: number, count: number, data: ArrayBufferView): number {
    const bufferView = this.put(Buffer.from(data.buffer, data.byteOffset, data.byteLength))
    this.accessors.push({ bufferView, componentType, count, type })
    return this.accessors.length - 1
  }
  floats = (type: string, count: number, ...of: number[]) => this.list(type, 5126, count, new Float32Array(of))

  /** The file of a scene. */
  file(scene: object): Buffer {
    const { accessors, views: bufferViews, length } = this
    const json = { asset: { version: '2.0' }, scene: 0, ...scene, accessors, bufferViews }
    let text = Buffer.from(JSON.stringify({ ...json, buffers: [{ byteLength: length }] }))
    text = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, ' ')])
    const body = Buffer.concat([...this.parts, Buffer.alloc((4 - (length % 4)) % 4)])
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
}
/** What shows a picture of a file on both sides, and what more its material says. */
const pictured = (w: Writer, picture: Buffer, more: object = {}) => ({
  materials: [{ doubleSided: true, pbrMetallicRoughness: { baseColorTexture: { index: 0 } }, ...more }],
  textures: [{ source: 0 }],
  images: [{ bufferView: w.put(picture), mimeType: 'image/png' }],
})

/** A sheet that lies flat, so many metres wide and deep, with a picture on it. */
export function sheet(wide: number, deep: number, picture: Buffer, material?: object): Buffer {
  const w = new Writer()
  const [x, z] = [wide / 2, deep / 2]
  const attributes = {
    POSITION: w.floats('VEC3', 4, -x, 0, z, x, 0, z, -x, 0, -z, x, 0, -z),
    NORMAL: w.floats('VEC3', 4, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0),
    TEXCOORD_0: w.floats('VEC2', 4, 0, 1, 1, 1, 0, 0, 1, 0),
  }
  const indices = w.list('SCALAR', 5123, 6, new Uint16Array([0, 1, 3, 0, 3, 2]))
  return w.file({
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes, indices, material: 0 }] }],
    ...pictured(w, picture, material),
  })
}

/** A banner of two by three metres, pure magenta over pure green, that folds in a second. */
export function banner(): Buffer {
  const w = new Writer()
  const attributes = {
    POSITION: w.floats('VEC3', 6, -1, 0, 0, 1, 0, 0, -1, 1.5, 0, 1, 1.5, 0, -1, 3, 0, 1, 3, 0),
    NORMAL: w.floats('VEC3', 6, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
    TEXCOORD_0: w.floats('VEC2', 6, 0, 1, 1, 1, 0, 0.5, 1, 0.5, 0, 0, 1, 0),
    JOINTS_0: w.list(
      'VEC4',
      5121,
      6,
      new Uint8Array([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]),
    ),
    WEIGHTS_0: w.floats('VEC4', 6, ...Array.from({ length: 24 }, (_, i) => (i % 4 ? 0 : 1))),
  }
  const indices = w.list('SCALAR', 5123, 12, new Uint16Array([0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4]))
  const rest = new Float32Array(32)
  for (const j of [0, 1]) for (let k = 0; k < 4; k++) rest[j * 16 + k * 5] = 1
  rest[16 + 13] = -1.5
  return w.file({
    scenes: [{ nodes: [0, 1] }],
    nodes: [{ mesh: 0, skin: 0 }, { children: [2] }, { translation: [0, 1.5, 0] }],
    meshes: [{ primitives: [{ attributes, indices, material: 0 }] }],
    ...pictured(
      w,
      png(8, 8, (_, y) => (y < 4 ? [255, 0, 255] : [0, 255, 0])),
    ),
    skins: [{ joints: [1, 2], inverseBindMatrices: w.list('MAT4', 5126, 2, rest) }],
    animations: [
      {
        name: 'fold',
        channels: [{ sampler: 0, target: { node: 2, path: 'rotation' } }],
        samplers: [{ input: w.floats('SCALAR', 2, 0, 1), output: w.floats('VEC4', 2, 0, 0, 0, 1, 1, 0, 0, 0) }],
      },
    ],
  })
}
