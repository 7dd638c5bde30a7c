// Files that become part of a scene: the server takes them in and says what it
// keeps of them, and what of them is otherwise than in the file.
import { ElMessage } from 'element-plus'
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
  const body = (await r.json().catch(() => null)) as (T & { title?: string; notes?: string[] }) | null
  if (!r.ok || !body) throw new RequestFailed(r.status, body?.title ?? `The server answered ${r.status}.`)
  if (body.notes?.length) ElMessage({ message: body.notes.join(' '), type: 'info', duration: 8000, showClose: true })
  return body
}

/** A file's name without its ending. */
export const stem = (file: { name: string }) => file.name.replace(/\.[^.]*$/, '')
