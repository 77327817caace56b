/**
 * Which of a texel’s s × s samples are cast first: one in every row and column, so that no edge passes between them unseen, and two beside
 * the middle. Their mean is the texel’s middle. All, up to 2 × 2.
 */
export function firstSamples(s: number): Uint8Array {
  const first = new Uint8Array(s * s);
  if (s <= 2) return first.fill(1);
  // A turned grid (for 4 × 4 one turned by atan ½); s is a power of two.
  const columns = s === 4 ? [2, 0, 3, 1] : [3, 6, 1, 4, 7, 2, 5, 0].slice(0, s);
  for (const [row, column] of columns.entries()) first[row * s + column] = 1;
  for (const k of [s / 2 - 1, s / 2]) first[k * s + k] = 1;
  return first;
}
