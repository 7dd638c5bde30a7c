// A document small enough to know by heart: two cameras, one on a dolly of
// eight metres over four seconds, a box, and three shots of two seconds.
import type { Document } from '@/core/bridge'

export function smallScene(): Document {
  const camera = (number: number) => ({
    number,
    color: '#6fa8dc',
    support: 'sticks' as const,
    aim: 'free' as const,
    framing: [0, 0] as [number, number],
    sensor: [36, 24] as [number, number],
    focal: 18,
    stop: 2.8,
    focus: 3,
  })
  const shot = (i: number, of: string) => ({
    lane: 'main',
    number: `0${i + 1}0`,
    camera: of,
    screenIn: 48 * i,
    screenOut: 48 * (i + 1),
    storyIn: 40 * i,
    speed: 1,
  })
  return {
    schema: 'proscen.scene/1',
    settings: {
      production: 'Test',
      title: 'Small',
      rate: '24',
      story: { in: 0, out: 240 },
      format: 'wide',
      sun: { heading: 90, height: 45, strength: 1, color: '#ffffff' },
      sky: { zenith: '#8090a0', horizon: '#c0c0c0', ground: '#404040', strength: 1 },
      haze: { distance: 0 },
    },
    nodes: {
      a: { kind: 'camera', name: 'A', position: [0, 1.5, 0], turn: [0, 0, 0], camera: camera(1) },
      b: {
        kind: 'camera',
        name: 'B',
        position: [0, 0, 0],
        turn: [0, 0, 0],
        path: 'track',
        camera: { ...camera(2), support: 'dolly' },
      },
      box: { kind: 'set', name: 'Box', position: [0, 0, -10], turn: [0, 0, 0], piece: { stock: 'box' } },
    },
    paths: {
      track: {
        name: 'track',
        form: 'straight',
        points: [
          [0, 2, 0],
          [8, 2, 0],
        ],
      },
    },
    curves: {
      travel: {
        node: 'b',
        channel: 'travel',
        keys: [
          { frame: 0, value: 0, ease: 'even' },
          { frame: 96, value: 1, ease: 'even' },
        ],
      },
    },
    actions: {},
    assemblies: { cut: { name: 'cut' } },
    lanes: { main: { assembly: 'cut', main: true, name: 'main' } },
    shots: { s1: shot(0, 'a'), s2: shot(1, 'b'), s3: shot(2, 'a') },
    markers: {},
    lines: {},
    formats: { wide: { name: 'wide', width: 1280, height: 720 } },
    models: {},
    kits: {},
    boards: {},
    cards: {},
    footage: {},
    tracks: {},
    sounds: {},
    recipes: {},
    alternates: {},
    differences: {},
  }
}
