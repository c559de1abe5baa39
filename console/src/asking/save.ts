/** Hand a file to the browser to keep. */
export function save(content: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
