/** Lets the browser save what is at an address, under a name. */
export function saveFrom(address: string, name: string) {
  const a = document.createElement('a')
  a.href = address
  a.download = name
  a.click()
}
/** Lets the browser save a text as a file. */
export function save(name: string, type: string, text: string) {
  const address = URL.createObjectURL(new Blob([text], { type }))
  saveFrom(address, name)
  setTimeout(() => URL.revokeObjectURL(address), 10_000)
}
