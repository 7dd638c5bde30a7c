// The pictures that stand for cameras in shots: boards, cards and footage, as
// textures. What is not at hand yet is fetched and asks for a new picture then.
import { DataTexture, LinearFilter, LinearMipmapLinearFilter, Texture, VideoTexture } from 'three'
import { core, type Air, type Card, type Document, type Still } from '@/core/bridge'

export interface StillPicture {
  texture: Texture
  aspect: number
  /** The colour around it. */
  ground: string
}
const paper = '#e8e4da'

/** What the cards on air say, to tell one picture from the next. */
export function cardsOf(doc: Pick<Document, 'cards'>, air: Air): string {
  return air.playing.map((p) => (p.still?.card ? JSON.stringify(doc.cards[p.still.card]) : '')).join()
}

/** An image of the files. */
async function fetchImage(blob: string): Promise<HTMLImageElement> {
  const image = new Image()
  image.src = `/api/images/${blob}`
  await image.decode()
  return image
}

export class StillPictures {
  /** Says what a card is; the scene's store sets it. */
  cardOf: (id: string) => Card | undefined = () => undefined
  /** Frames in a second. */
  rate = 24
  private kept = new Map<string, StillPicture | null>()
  private videos = new Map<string, { video: HTMLVideoElement; picture: StillPicture | null }>()

  constructor(private changed: () => void) {}

  get(s: Still, width: number, height: number): StillPicture | null {
    if (s.video) return this.footage(s.video, s.frame ?? 0)
    if (s.blob) return this.once(`image ${s.blob}`, async () => this.board(await fetchImage(s.blob!)))
    const card = s.card ? this.cardOf(s.card) : { say: s.say ?? 'This card is not there any more.' }
    if (!card) return null
    return this.once(`${width}x${height} ${JSON.stringify(card)}`, async () => this.card(card, width, height))
  }

  /** A picture that is made once; null until it is there. */
  private once(key: string, make: () => Promise<StillPicture>): StillPicture | null {
    const now = this.kept.get(key)
    if (now !== undefined) return now
    if (this.kept.size > 400) this.forget()
    this.kept.set(key, null)
    make().then(
      (p) => {
        this.kept.set(key, p)
        this.changed()
      },
      () => setTimeout(() => this.kept.delete(key), 5000), // tried again later
    )
    return null
  }
  private forget() {
    for (const p of this.kept.values()) p?.texture.dispose()
    this.kept.clear()
  }

  private board(image: HTMLImageElement): StillPicture {
    const texture = new Texture(image)
    texture.minFilter = LinearMipmapLinearFilter
    texture.needsUpdate = true
    return { texture, aspect: image.width / image.height, ground: paper }
  }

  private async card(card: Card | { say: string }, width: number, height: number): Promise<StillPicture> {
    let inside: ImageData | undefined
    if ('blob' in card && card.blob) {
      const image = await fetchImage(card.blob)
      const canvas = document.createElement('canvas')
      canvas.width = image.width
      canvas.height = image.height
      const context = canvas.getContext('2d')!
      context.drawImage(image, 0, 0)
      inside = context.getImageData(0, 0, image.width, image.height)
    }
    const pixels = core.cardPicture(card, width, height, inside)
    if (!pixels) throw new Error('the card cannot be drawn')
    const texture = new DataTexture(new Uint8Array(pixels.buffer), width, height)
    texture.flipY = true
    texture.magFilter = texture.minFilter = LinearFilter
    texture.needsUpdate = true
    return { texture, aspect: width / height, ground: '#000000' }
  }

  /** A frame of footage: the video is brought to it, and shows what it has until then. */
  private footage(blob: string, frame: number): StillPicture | null {
    let v = this.videos.get(blob)
    if (!v) {
      const video = document.createElement('video')
      video.muted = true
      video.preload = 'auto'
      video.src = `/api/footage/${blob}`
      const made: { video: HTMLVideoElement; picture: StillPicture | null } = { video, picture: null }
      v = made
      this.videos.set(blob, v)
      video.onloadeddata = () => {
        const texture = new VideoTexture(video)
        texture.generateMipmaps = false
        made.picture = { texture, aspect: video.videoWidth / video.videoHeight, ground: '#000000' }
        this.changed()
      }
      video.onseeked = () => {
        if (made.picture) made.picture.texture.needsUpdate = true
        this.changed()
      }
    }
    // The middle of the frame, so that rounding does not show its neighbour.
    const at = (Math.floor(frame) + 0.5) / this.rate
    if (!v.video.seeking && Math.abs(v.video.currentTime - at) > 0.2 / this.rate) v.video.currentTime = at
    return v.picture
  }
}
