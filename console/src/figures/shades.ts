/** A cell's ground: green above nothing, red below, by `strength` percent over `ground`. */
export function shade(
  value: number,
  strength: number,
  ground = 'transparent',
): Record<string, string> {
  const colour = value >= 0 ? 'var(--spruce)' : 'var(--brick)'
  return { background: `color-mix(in srgb, ${colour} ${Math.round(strength)}%, ${ground})` }
}
