// Reads typed figures: arithmetic, units, and changes of the present value.

const lengths: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, ft: 0.3048, in: 0.0254 }

/**
 * Returns the number that a text means, or null. A leading +, or × and /,
 * changes the present value (a leading − sets a negative one: write +-1 to
 * subtract). Units of length convert to the field's unit when that is one;
 * s and f convert to the field's frames.
 */
export function readFigure(text: string, present: number, unit: string, rate: number): number | null {
  let t = text.trim().replace(',', '.').replace(/[×x]/g, '*').replace(/−/g, '-').toLowerCase()
  if (!t) return null
  t = t.replace(/(\d|\.)\s*(mm|cm|m|ft|in|f|s|°|deg)\b|(\d)°/g, (_all, digit: string, u: string, bare: string) => {
    if (bare) return bare
    if (u in lengths && unit in lengths) return `${digit}*${lengths[u]! / lengths[unit]!}`
    if (u === 's' && unit === 'f') return `${digit}*${rate}`
    return digit
  })
  if (/^[+*/]/.test(t)) t = `${present}${t}`
  const v = arithmetic(t)
  return v === null || !Number.isFinite(v) ? null : v
}

/** Evaluates + − * / and brackets; null for anything else. */
export function arithmetic(text: string): number | null {
  const tokens = text.match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]/g)
  if (!tokens || tokens.join('') !== text.replace(/\s/g, '')) return null
  let i = 0
  const sum = (): number => {
    let v = product()
    while (tokens[i] === '+' || tokens[i] === '-') v = tokens[i++] === '+' ? v + product() : v - product()
    return v
  }
  const product = (): number => {
    let v = factor()
    while (tokens[i] === '*' || tokens[i] === '/') v = tokens[i++] === '*' ? v * factor() : v / factor()
    return v
  }
  const factor = (): number => {
    const t = tokens[i++]
    if (t === '-') return -factor()
    if (t === '+') return factor()
    if (t === '(') {
      const v = sum()
      if (tokens[i++] !== ')') return NaN
      return v
    }
    return t === undefined ? NaN : Number(t)
  }
  const v = sum()
  return i === tokens.length && !Number.isNaN(v) ? v : null
}
