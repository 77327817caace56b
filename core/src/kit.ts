import type { ManifoldToplevel } from 'manifold-3d/manifold';
import type { MeshoptSimplifier } from 'meshoptimizer';
import type { Font } from 'opentype.js';
import { FormError } from './errors';

/**
 * General-purpose libraries that have to be loaded before they can be used. Whoever runs the core loads them, as it alone knows
 * where files lie, and hands them in; what can do without them works without.
 */
export interface Kit {
  /** Joining and cutting of solids. */
  solids?: ManifoldToplevel;
  /** Simplifying of imports. */
  simplifier?: typeof MeshoptSimplifier;
  /** The typeface engravings and prints are set in. */
  font?: Font;
  /** Drawing of SVG. */
  drawings?: DrawSvg;
}
/** An SVG as pixels, so many wide; four bytes each, not multiplied by alpha. @throws Error where it can’t be read */
export type DrawSvg = (svg: string | Uint8Array, width: number) => { width: number; height: number; data: Uint8Array };
export const NO_KIT: Kit = {};

/** @throws FormError when it was not loaded */
export function needed<K extends keyof Kit>(kit: Kit, what: K): NonNullable<Kit[K]> {
  const found = kit[what];
  if (!found) throw new FormError('kit/missing', `${MISSING[what]} needs a library that was not loaded here.`);
  return found;
}
const MISSING: Record<keyof Kit, string> = {
  solids: 'Joining and cutting of solids',
  simplifier: 'Simplifying',
  font: 'Setting text',
  drawings: 'Drawing SVG',
};
