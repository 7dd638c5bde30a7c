// Words and estimates for recipes.
import type { Recipe } from '@/core/bridge'

type Pack = Recipe['pack']
type Quality = Recipe['quality']
export type Pass = NonNullable<Recipe['passes']>[number]
export type Says = NonNullable<Recipe['burns']>[number]['says']

/** What packs are called, and about how many bits a pixel takes by quality. */
export const packs: Record<Pack, { name: string; bits: [number, number, number] }> = {
  h264: { name: 'H.264 in mp4', bits: [0.06, 0.09, 0.16] },
  vp9: { name: 'VP9 in webm', bits: [0.03, 0.06, 0.12] },
  prores: { name: 'ProRes in mov', bits: [1, 2.2, 3.3] },
  ffv1: { name: 'FFV1 in mkv, lossless', bits: [5, 5, 6] },
  png: { name: 'PNG pictures', bits: [6, 6, 7] },
  jpeg: { name: 'JPEG pictures', bits: [0.6, 1, 2] },
  exr: { name: 'EXR pictures, half-float', bits: [16, 17, 18] },
}
/** What frames tell besides their picture. */
export const passes: Record<Pass, string> = {
  depth: 'depth',
  normal: 'normal in the world',
  facing: 'normal to the camera',
  position: 'position',
  matte: 'matte of each thing',
  groups: 'matte of each group',
}
/** About how many bits of a file a pixel of a pass takes. */
const passBits = 14

export const qualities: Record<Quality, string> = {
  rough: 'one sample a pixel, coarse shadows; the fastest',
  check: 'four samples a pixel and the shadow of the sun; what the monitor shows',
  fine: 'sixteen samples a pixel, over the lens and the open shutter; for the last look',
}
const step = { rough: 0, check: 1, fine: 2 } as const

/** Pixels in a second, as deliveries have shown; a guess at first. */
const speed: Record<Quality, number> = { rough: 14e6, check: 9e6, fine: 2.6e6 }

/** Learns how fast a quality is made. */
export function learn(quality: Quality, pixels: number, seconds: number) {
  if (seconds > 1 && pixels > 0) speed[quality] = pixels / seconds
}
export const secondsOf = (pixels: number, r: Recipe) => pixels / speed[r.quality]

export function timeOf(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3600).toFixed(1)} h`
}
export function bytesOf(pixels: number, r: Recipe): string {
  // Pixels are those of all files.
  const kinds = 1 + (r.passes?.length ?? 0)
  const mb = ((pixels / kinds) * (packs[r.pack].bits[step[r.quality]] + (kinds - 1) * passBits)) / 8 / 1e6
  if (mb < 1) return 'under 1 MB'
  return mb < 1000 ? `${mb.toFixed(mb < 10 ? 1 : 0)} MB` : `${(mb / 1000).toFixed(1)} GB`
}

/** What burn-ins and names tell, in words. */
export const says: Record<Says, string> = {
  shot: 'shot',
  camera: 'camera',
  lens: 'lens',
  story: 'story timecode',
  screen: 'screen timecode',
  frame: 'frame',
  version: 'version',
  date: 'date',
  scene: 'scene',
  production: 'production',
  assembly: 'assembly',
  format: 'format',
  text: 'own words',
}
export const burnSays: Says[] = [
  'shot',
  'camera',
  'lens',
  'story',
  'screen',
  'frame',
  'version',
  'date',
  'scene',
  'production',
  'assembly',
  'format',
  'text',
]
export const nameSays: Says[] = [
  'production',
  'scene',
  'assembly',
  'shot',
  'camera',
  'format',
  'version',
  'date',
  'text',
]
