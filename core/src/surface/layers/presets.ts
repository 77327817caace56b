import { linearToSrgb, srgbToLinear } from '../../image/srgb';
import type { Material } from '../material';
import { type Field, usualField } from './fields';
import type { Join, Layer, Masked } from './layer';

type Rgb = [number, number, number];
type Begun = Omit<Layer, 'id'>;
/** What a new layer may be begun from. */
export interface Beginning {
  key: string;
  name: string;
  /** What it is for, in a few words. */
  says: string;
  make(m: Pick<Material, 'colour' | 'roughness' | 'metallic'>): Begun;
}

const masked = (field: Field, join: Join = 'times', inverted = false): Masked => ({ join, inverted, field });
const begun = (name: string, look: Layer['look'], mask: Masked[], opacity = 1): Begun => ({ name, on: true, opacity, look, mask });
/** So many times as much light, kept within what a surface can reflect. */
const lit = (c: Rgb, by: number): Rgb =>
  c.map((x) => Math.round(1000 * Math.min(0.93, linearToSrgb(Math.min(1, by * srgbToLinear(x))))) / 1000) as Rgb;
const share = (x: number): number => Math.min(1, Math.max(0, Math.round(100 * x) / 100));
const DUST: Rgb = [0.53, 0.49, 0.43];

/** Layers to begin with; every figure of them can be changed. Amounts by eye. */
export const BEGINNINGS: readonly Beginning[] = [
  {
    key: 'edges',
    name: 'Worn edges',
    says: 'a line of so many mm',
    make: (m) =>
      begun('Worn edges', { colour: lit(m.colour, 1.6), roughness: share(m.roughness * 0.7) }, [
        masked({ kind: 'edges', width: 0.8, broken: 0.5 }),
      ]),
  },
  {
    key: 'worn',
    name: 'Rubbed places',
    says: 'a share, by the baked curvature',
    make: (m) => begun('Rubbed', { colour: lit(m.colour, 1.5), roughness: share(m.roughness * 0.7) }, [masked(usualField('worn'))]),
  },
  {
    key: 'dirt',
    name: 'Dirt in corners',
    says: 'a share, by the baked occlusion',
    make: () => begun('Dirt', { colour: [0.36, 0.32, 0.27], roughness: 0.9, metallic: 0 }, [masked(usualField('enclosed'))], 0.75),
  },
  {
    key: 'dust',
    name: 'Dust',
    says: 'on what faces up',
    make: () =>
      begun(
        'Dust',
        { colour: DUST, roughness: 0.95, metallic: 0 },
        [masked({ kind: 'facing', towards: 'up', within: 40, soft: 40 }), masked({ kind: 'clouds', size: 30, share: 0.7, soft: 1 })],
        0.5,
      ),
  },
  {
    key: 'tone',
    name: 'Two tones',
    says: 'clouds, lighter and darker',
    make: (m) => begun('Second tone', { colour: lit(m.colour, 0.72) }, [masked({ kind: 'clouds', size: 25, share: 0.45, soft: 0.8 })], 0.7),
  },
  {
    key: 'scratches',
    name: 'Scratches',
    says: 'so many a dm²',
    make: (m) => begun('Scratches', { colour: lit(m.colour, 1.35), rougher: 0.12, relief: -30 }, [masked(usualField('scratches'))], 0.8),
  },
  {
    key: 'brushed',
    name: 'Brushed',
    says: 'streaks along its length',
    make: (m) =>
      begun('Brushed', { colour: lit(m.colour, 0.9), rougher: 0.14, relief: -4 }, [
        masked({ kind: 'strands', along: 'length', width: 0.15, length: 40, share: 0.5 }),
      ]),
  },
  {
    key: 'rings',
    name: 'Growth rings',
    says: 'wood, each board cut from a trunk',
    make: (m) => begun('Late wood', { colour: lit(m.colour, 0.45), rougher: -0.06 }, [masked(usualField('rings'))], 0.85),
  },
  {
    key: 'fibres',
    name: 'Fibres',
    says: 'fine and long, along the grain',
    make: (m) =>
      begun(
        'Fibres',
        { colour: lit(m.colour, 0.6), rougher: 0.05 },
        [masked({ kind: 'strands', along: 'length', width: 0.3, length: 26, share: 0.3 })],
        0.5,
      ),
  },
  {
    key: 'boards',
    name: 'Each board its own tone',
    says: 'by pieces that hang together',
    make: (m) => begun('Tone of each', { colour: lit(m.colour, 0.6) }, [masked(usualField('boards'))], 0.6),
  },
  {
    key: 'spots',
    name: 'Spots',
    says: 'grains of another colour',
    make: (m) => begun('Spots', { colour: lit(m.colour, 0.5) }, [masked(usualField('spots'))]),
  },
  {
    key: 'weave',
    name: 'Weave',
    says: 'threads over and under',
    make: (m) =>
      begun(
        'Hollows between threads',
        { colour: lit(m.colour, 0.35), rougher: 0.05, relief: -250 },
        [masked(usualField('weave'), 'times', true)],
        0.8,
      ),
  },
  {
    key: 'dents',
    name: 'Hammered',
    says: 'bowls side by side',
    make: () => begun('Bowls', { relief: -350 }, [masked(usualField('dents'))]),
  },
  {
    key: 'span',
    name: 'Water line',
    says: 'darker and glossier up to a height',
    make: (m) => begun('Wet', { colour: lit(m.colour, 0.5), roughness: share(m.roughness * 0.4) }, [masked(usualField('span'))], 0.9),
  },
  {
    key: 'rust',
    name: 'Stains',
    says: 'patches in corners and beyond them',
    make: () =>
      begun(
        'Stains',
        { colour: [0.37, 0.2, 0.1], roughness: 0.85, metallic: 0 },
        [masked({ kind: 'enclosed', share: 0.2 }), masked({ kind: 'clouds', size: 8, share: 0.5, soft: 0.3 })],
        0.9,
      ),
  },
  {
    key: 'runs',
    name: 'Runs',
    says: 'streaks down the sides: rust, soot and rain',
    make: () => begun('Runs', { colour: [0.3, 0.2, 0.13], rougher: 0.1 }, [masked(usualField('runs'))], 0.55),
  },
  {
    key: 'painted',
    name: 'Painted by hand',
    says: 'strokes of a brush over the piece',
    make: (m) =>
      begun('Painted', { colour: lit(m.colour, 0.45), roughness: share(m.roughness + 0.1), metallic: 0 }, [masked(usualField('strokes'))]),
  },
  { key: 'even', name: 'An even layer', says: 'everywhere, to be masked', make: (m) => begun('Layer', { colour: lit(m.colour, 0.8) }, []) },
];
