/** A name that nobody gives twice, for something that may be sent twice and is to be done once. */
export function newKey(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('')
}
