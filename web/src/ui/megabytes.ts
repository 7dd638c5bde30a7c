/** A number of bytes as people read it. */
export function megabytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`
  if (bytes < 1e6) return `${Math.round(bytes / 1000)} kB`
  return `${(bytes / 1e6).toLocaleString('en', { maximumFractionDigits: bytes < 1e7 ? 1 : 0 })} MB`
}
