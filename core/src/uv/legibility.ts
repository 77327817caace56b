/** Capitals lower than this are guessed, not read, on a screen or in a texture: common practice, no source. */
export const LEAST_CAPITAL = 5;

/** How high a printed capital is where it is seen closest, and in the texture. */
export interface Legibility {
  /** px on the screen at the closest view, seen straight on. */
  screen: number;
  texels: number;
  /** What keeps it from being read: too small to be seen, or too few texels for what could be seen. */
  lacks: 'size' | 'texels' | null;
  /** px/cm at which the texture shows all that the screen can. */
  enough: number;
}

/**
 * Whether print can be read.
 *
 * @param capital height of a capital, mm
 * @param density of the layout there, px/cm
 * @param pixel what a pixel of the screen covers at the closest view, mm
 */
export function legibility(capital: number, density: number, pixel: number): Legibility {
  const [screen, texels] = [capital / pixel, (capital * density) / 10];
  const lacks =
    screen < LEAST_CAPITAL ? 'size' : texels < LEAST_CAPITAL || texels < 0.75 * Math.min(screen, 4 * LEAST_CAPITAL) ? 'texels' : null;
  return { screen, texels, lacks, enough: 10 / pixel };
}
