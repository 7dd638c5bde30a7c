// Whether pictures are drawn coarsely: on machines that need long for a whole one, as
// long as something moves.

/** Pictures that take longer than this, in milliseconds, make a machine slow. */
const long = 50
/** And at rest they must be this quick again for it to be no more. */
const quick = 25
/** What changes this soon after another change moves, and has come to rest after this. */
const moving = 250
const resting = 150
/** On a slow machine small pictures are made when nothing has changed for so long. */
const idle = 800

export class Pace {
  private slow = false
  private cost = 0
  private asked = -Infinity
  private goesOn = false

  /** Something has changed at a moment, so that a new picture is asked for. */
  ask(now: number) {
    // On a slow machine changes come as late as pictures do.
    this.goesOn = now - this.asked < moving + this.cost
    this.asked = now
  }

  /** Tells whether a picture made at a moment is drawn coarsely. */
  coarse(now: number): boolean {
    return this.slow && this.goesOn && now - this.asked < this.rest
  }

  /** After how many milliseconds without a change a whole picture is due. */
  get rest() {
    return resting + this.cost / 2
  }

  /** For how many milliseconds from a moment on small pictures give way to what may come next. */
  yields(now: number) {
    return this.slow ? Math.max(0, idle - (now - this.asked)) : 0
  }

  /** How many pictures may be under way. */
  get atOnce() {
    return this.slow ? 1 : 2
  }

  /** What a whole picture took until it was there. */
  took(ms: number) {
    this.slow = ms > (this.slow ? quick : long)
    this.cost = Math.min(1000, ms)
  }

  /** The machine is forgotten, as after its graphics were taken away. */
  restart() {
    this.slow = false
    this.cost = 0
    this.goesOn = false
  }
}

/** Longer than this nobody waits for the graphics, in milliseconds: they may never answer. */
const patience = 10_000

/** Calls back with the milliseconds until all that was asked of the graphics is done. */
export function whenDone(gl: WebGL2RenderingContext, told: (ms: number) => void) {
  const start = performance.now()
  const sync = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
  if (!sync) return told(0)
  gl.flush()
  const look = () => {
    // Graphics that were lost, and may be back already, do not know it any more.
    if (gl.isContextLost() || !gl.isSync(sync)) return told(0)
    const ms = performance.now() - start
    if (ms < patience && gl.getSyncParameter(sync, gl.SYNC_STATUS) !== gl.SIGNALED) return void setTimeout(look, 5)
    gl.deleteSync(sync)
    told(ms)
  }
  setTimeout(look, 5)
}
