// The validator of glTF comes without types.
declare module 'gltf-validator' {
  interface Report {
    issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string }[] }
  }
  const validator: { validateBytes(bytes: Uint8Array): Promise<Report> }
  export default validator
}
