/** How long ago a moment is, in words that are short. */
export function ago(at: string, now = Date.now()): string {
  const seconds = Math.max(0, (now - Date.parse(at)) / 1000)
  if (seconds < 45) return 'just now'
  if (seconds < 3600) return `${Math.max(1, Math.round(seconds / 60))} min ago`
  if (seconds < 86_400) return `${Math.round(seconds / 3600)} h ago`
  return new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}
