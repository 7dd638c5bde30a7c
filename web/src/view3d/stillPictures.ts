// The pictures that stand for cameras in shots: boards, cards and footage, as
// textures. What is not at hand yet is fetched and asks for a new picture then.
import { DataTexture, LinearFilter, LinearMipmapLinearFilter, Texture, VideoTexture } from 'three'
import { core, type Air, type Card, type Document, type Still, type SurfaceNow } from '@/core/bridge'

export interface StillPicture {
  texture: Texture
  aspect: number
  /** The colour around it. */
  ground: string
}
interface Video {
  video: HTMLVideoElement
  picture: StillPicture | null
  asked: number // when a frame of it was asked for last, in milliseconds
}
/** Milliseconds after which what could not be had is asked for again. */
const retryAfter = 5000
/** Videos that are kept though they have not been asked for. */
const idleVideos = 4
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
  private videos = new Map<string, Video>()
  /** How fast a shot plays, as a factor; 0 while everything stands still. */
  paceOf: (shot: string) => number = () => 0

  /** Finish says what is special of the textures of these pictures. */
  constructor(
    private changed: () => void,
    private finish: (t: Texture) => void = () => {},
  ) {}

  /** What a picture plane shows. Each plays its video by itself, and does so with the story. */
  on({ node, blob, frame, rate }: SurfaceNow): StillPicture | null {
    return frame < 0 ? this.get({ blob }, 0, 0) : this.footage(blob, frame, rate, node, `${node} ${blob}`)
  }

  /** A picture in a size. With the shot that it is on air in, footage plays along. */
  get(s: Still, width: number, height: number, shot?: string): StillPicture | null {
    if (s.video) return this.footage(s.video, s.frame ?? 0, s.rate ?? this.rate, shot)
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
      () =>
        setTimeout(() => {
          if (this.kept.get(key) === null) this.kept.delete(key)
          this.changed() // whoever still wants it asks again
        }, retryAfter),
    )
    return null
  }
  private forget() {
    for (const p of this.kept.values()) p?.texture.dispose()
    this.kept.clear()
  }
  /** Lets everything go, as when another scene is opened. */
  clear() {
    this.forget()
    for (const key of [...this.videos.keys()]) this.drop(key)
  }
  private drop(key: string) {
    const v = this.videos.get(key)
    if (!v) return
    this.videos.delete(key)
    v.video.pause()
    v.video.removeAttribute('src')
    v.video.load()
    v.picture?.texture.dispose()
  }
  /** Lets videos go that have not been asked for in some time. */
  private dropIdle() {
    const idle = [...this.videos].filter(([, v]) => performance.now() - v.asked > 10_000)
    idle.sort(([, a], [, b]) => a.asked - b.asked)
    for (const [key] of idle.slice(0, Math.max(0, idle.length - idleVideos))) this.drop(key)
  }

  private board(image: HTMLImageElement): StillPicture {
    const texture = new Texture(image)
    texture.minFilter = LinearMipmapLinearFilter
    this.finish(texture)
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

  private videoOf(blob: string, key: string): Video {
    const known = this.videos.get(key)
    if (known) return known
    this.dropIdle()
    const video = document.createElement('video')
    video.muted = true
    video.preload = 'auto'
    video.src = `/api/footage/${blob}`
    const made: Video = { video, picture: null, asked: 0 }
    this.videos.set(key, made)
    video.onloadeddata = () => {
      const texture = new VideoTexture(video)
      texture.generateMipmaps = false
      this.finish(texture)
      made.picture = { texture, aspect: video.videoWidth / video.videoHeight, ground: '#000000' }
      this.changed()
    }
    video.onerror = () =>
      setTimeout(() => this.videos.get(key) === made && (this.drop(key), this.changed()), retryAfter)
    video.onseeked = () => {
      if (made.picture) made.picture.texture.needsUpdate = true
      this.changed()
    }
    return made
  }

  /**
   * A frame of footage. Where the cut plays, the video plays along at the shot's
   * speed and is brought back when it is off; else it is brought to the frame, and
   * shows what it has until then.
   */
  private footage(
    blob: string,
    frame: number,
    rate: number,
    shot?: string,
    key = shot === undefined ? `small ${blob}` : blob,
  ): StillPicture | null {
    const v = this.videoOf(blob, key)
    const { video } = v
    v.asked = performance.now()
    // The middle of the frame, so that rounding does not show its neighbour.
    const at = (Math.floor(frame) + 0.5) / rate
    const off = Math.abs(video.currentTime - at)
    const pace = shot === undefined ? 0 : this.paceOf(shot)
    if (pace > 0.05 && pace <= 4 && !video.seeking) {
      if (off > 2.5 / rate) video.currentTime = at
      if (video.playbackRate !== pace) video.playbackRate = pace
      if (video.paused) this.play(v)
    } else {
      if (!video.paused) video.pause()
      if (!video.seeking && off > 0.2 / rate) video.currentTime = at
    }
    return v.picture
  }
  /** Lets a video run for as long as its frames are asked for. */
  private play(v: Video) {
    v.video.play().catch(() => {}) // a browser that does not let it play is brought to each frame
    const watch = () => {
      if (v.video.paused) return
      if (performance.now() - v.asked > 500) v.video.pause()
      else setTimeout(watch, 100)
    }
    setTimeout(watch, 100)
  }
}
