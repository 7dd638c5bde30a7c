// What people call the fields of things.
const names: Record<string, string> = {
  position: 'place',
  turn: 'turn',
  'piece.color': 'colour',
  'piece.stock': 'kind',
  'camera.focal': 'lens',
  'camera.stop': 'stop',
  'camera.focus': 'focus',
  'camera.framing': 'framing',
  'sun.hour': 'time of day',
  'sun.strength': 'strength of the sun',
  'sun.color': 'colour of the sun',
  'sun.height': 'height of the sun',
  'sun.heading': 'heading of the sun',
  'lamp.strength': 'strength',
  'lamp.color': 'colour',
  'lamp.reach': 'reach',
  'lamp.spot': 'cone',
  'lamp.soft': 'soft edge',
  'lamp.shadow': 'casts shadows',
  'haze.distance': 'haze',
  screenIn: 'beginning',
  screenOut: 'end',
  storyIn: 'first frame',
  hidden: 'hidden',
  parent: 'hangs on',
}
export const fieldName = (field: string) =>
  names[field] ??
  field
    .replaceAll('.', ' ')
    .replace(/([A-Z])/g, ' $1')
    .toLowerCase()

/** A value of a field, in few words. */
export function fieldValue(v: unknown): string {
  if (v === null || v === undefined || v === '') return '—'
  if (v === true) return 'yes'
  if (v === false) return 'no'
  if (typeof v === 'number') return String(+v.toFixed(3))
  if (Array.isArray(v)) {
    if (v.length <= 3 && v.every((x) => typeof x === 'number')) return v.map(fieldValue).join(', ')
    return `${v.length} ${v.length === 1 ? 'entry' : 'entries'}`
  }
  if (typeof v === 'object') return Object.keys(v).map(fieldName).slice(0, 4).join(', ')
  const text = String(v)
  return text.length > 40 ? `${text.slice(0, 39)}…` : text
}
