/** Transfer functions of IEC 61966-2-1; values 0…1. */
export const srgbToLinear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
export const linearToSrgb = (c: number): number => (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);

type Rgb = [number, number, number];
export const rgbToLinear = (c: readonly number[]): Rgb => [srgbToLinear(c[0]), srgbToLinear(c[1]), srgbToLinear(c[2])];
export const rgbToSrgb = (c: readonly number[]): Rgb => [linearToSrgb(c[0]), linearToSrgb(c[1]), linearToSrgb(c[2])];
