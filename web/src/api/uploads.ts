// Files that become part of a scene: the server takes them in and says what it
// keeps of them.
import { RequestFailed } from './client'

export interface KeptImage {
  blob: string
  width: number
  height: number
}

/** Sends a file and returns what is kept of it, or throws RequestFailed with a sentence. */
export async function upload<T>(path: string, file: Blob): Promise<T> {
  let r: Response
  try {
    r = await fetch(`/api/${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: file,
    })
  } catch {
    throw new RequestFailed(0, 'The server does not answer. Check that it is running and try again.')
  }
  const body = (await r.json().catch(() => null)) as (T & { title?: string }) | null
  if (!r.ok || !body) throw new RequestFailed(r.status, body?.title ?? `The server answered ${r.status}.`)
  return body
}

/** A file's name without its ending. */
export const stem = (file: { name: string }) => file.name.replace(/\.[^.]*$/, '')
