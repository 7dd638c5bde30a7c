import createClient from 'openapi-fetch'
import type { components, paths } from './api.gen'

export type SceneInfo = components['schemas']['SceneInfo']
export type Unpacked = components['schemas']['Unpacked']
export type ProductionInfo = components['schemas']['ProductionInfo']
export type Facts = components['schemas']['Facts']
export type KnownFile = components['schemas']['KnownFile']
export type Delivery = components['schemas']['Delivery']
export type Output = components['schemas']['Output']
export type Presence = components['schemas']['Presence']
export type Version = components['schemas']['Version']
export type LoggedEdit = components['schemas']['Edit']
export type Problem = components['schemas']['Problem']
export type SceneEvent = components['schemas']['Event']

export const api = createClient<paths>({ baseUrl: '/api', fetch: (request) => globalThis.fetch(request) })

/** A failed request in the words of the server. */
export class RequestFailed extends Error {
  constructor(
    public status: number,
    message: string,
  ) {
    super(message)
  }
}

interface Answer<T> {
  data?: T
  error?: Problem
  response: Response
}

/** Returns the data of a request or throws RequestFailed with a sentence. */
export async function ask<T>(request: Promise<Answer<T>>): Promise<T> {
  let a: Answer<T>
  try {
    a = await request
  } catch {
    throw new RequestFailed(0, 'The server does not answer. Check that it is running; your work goes on here.')
  }
  if (a.error || (a.data === undefined && a.response.status !== 204)) {
    throw new RequestFailed(a.response.status, a.error?.title ?? `The server answered ${a.response.status}.`)
  }
  return a.data as T
}
