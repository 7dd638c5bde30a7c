// The line to the server for one scene: a WebSocket that connects again, and is
// given up when nothing has been heard for long, as after a sleep.
import type { SceneEvent } from '@/api/client'

/** Milliseconds until it is tried again: the longer it has been in vain, the more, up to the second. */
const retryAfter = [1000, 5000] as const
/** The server says something at least every 15 seconds. */
const silence = 40_000

export class Line {
  private socket?: WebSocket
  private ended = false
  private wait: number = retryAfter[0]
  private quiet?: ReturnType<typeof setTimeout>
  private again?: ReturnType<typeof setTimeout>

  constructor(
    private scene: string,
    private tab: string,
    private hear: (e: SceneEvent) => void,
    /** Called when the line is there, and when it is gone. */
    private stands: (up: boolean) => void,
  ) {
    this.connect()
    addEventListener('online', this.wake)
    document.addEventListener('visibilitychange', this.wake)
  }
  end() {
    this.ended = true
    clearTimeout(this.quiet)
    clearTimeout(this.again)
    removeEventListener('online', this.wake)
    document.removeEventListener('visibilitychange', this.wake)
    this.socket?.close()
    this.socket = undefined
  }
  say(what: object) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(what))
  }
  /** Connects at once if the line is down. */
  private wake = () => {
    this.wait = retryAfter[0]
    if (!this.socket && document.visibilityState !== 'hidden') this.connect()
  }
  private connect() {
    if (this.ended) return
    clearTimeout(this.again)
    const url = new URL(`/api/scenes/${this.scene}/events?tab=${this.tab}`, location.href)
    url.protocol = url.protocol.replace('http', 'ws')
    const s = new WebSocket(url)
    this.socket = s
    this.listen()
    s.onmessage = (m) => {
      if (this.socket !== s) return
      this.listen()
      const e = JSON.parse(m.data as string) as SceneEvent
      if (e.kind === 'hello') {
        this.wait = retryAfter[0]
        this.stands(true)
      }
      this.hear(e)
    }
    s.onclose = () => {
      if (this.socket !== s) return
      this.socket = undefined
      clearTimeout(this.quiet)
      this.stands(false)
      if (this.ended) return
      this.again = setTimeout(() => this.connect(), this.wait)
      this.wait = Math.min(retryAfter[1], this.wait * 1.5)
    }
  }
  private listen() {
    clearTimeout(this.quiet)
    this.quiet = setTimeout(() => {
      const s = this.socket
      s?.close()
      s?.onclose?.(new CloseEvent('close'))
    }, silence)
  }
}
