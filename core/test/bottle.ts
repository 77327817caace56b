import { briefFor } from '../src/brief/brief';
import { kindOf, type Step } from '../src/form/steps/index';
import { type AssetDocument, newDocument } from '../src/pipeline/document';
import { INK, type Print } from '../src/print/print';
import { fromLibrary } from '../src/surface/library';

/** The bottle’s body: a cylinder between a foot and a shoulder, mm. */
export const BOTTLE = { diameter: 70, from: 6, to: 126 } as const;

/** Corners of the bottle’s outline: foot, wall, a shoulder that goes in softly, neck. */
const OUTLINE: [number, number][] = [
  [0, 0],
  [31, 0],
  [35, 6],
  [35, 126],
  [32, 138],
  [22, 150],
  [14, 156],
  [14, 180],
  [0, 180],
];

/** An oil bottle for the lamp room: Ø 70, with a wall of 120 mm for its labels. @param sides facets round; as the budget has them when 0 */
export function bottle(sides = 0): AssetDocument {
  const d = newDocument('Oil bottle', briefFor('product'));
  const body = {
    ...kindOf('turned').fresh(),
    kind: 'turned',
    id: 'body',
    name: 'Body',
    enabled: true,
    body: 'solid',
    edgeRadius: 0,
    profile: {
      points: OUTLINE.map(([r, y], i) => ({ id: `p${i}`, r, y })),
      segments: OUTLINE.slice(1).map((_, i) => ({
        id: `s${i}`,
        name: ['foot', 'heel', 'wall', 'shoulder', 'shoulder 2', 'shoulder 3', 'neck', 'mouth'][i],
        kind: 'line',
      })),
    },
  } as unknown as Step;
  return {
    ...d,
    brief: { ...d.brief, sizeMm: [70, 180, 70], limits: { ...d.brief.limits, triangles: 4000, textureSize: 1024, memoryMB: 40 } },
    materials: [{ ...fromLibrary('glazed-ceramic', 'glaze'), name: 'Glaze' }],
    parts: [
      {
        id: 'body',
        name: 'Body',
        role: 'body',
        material: 'glaze',
        move: [0, 0, 0],
        turnDegrees: [0, 0, 0],
        shape: { kind: 'recipe', steps: [body] },
        weight: 1,
        declaredOpen: false,
      },
    ],
    ...(sides > 0 && { form: { ...d.form, counts: { 'body.sides': sides }, locks: { 'body.sides': sides } } }),
  };
}

/** A label of words on the bottle’s wall, in front or behind. */
export const bottleLabel = (id: string, text: string, side: 1 | -1 = 1, more: Partial<Print> = {}): Print => ({
  id,
  name: id[0].toUpperCase() + id.slice(1),
  on: true,
  part: 'body',
  artwork: { kind: 'text', text, capital: 10, tracking: 0, leading: 1.6, align: 'middle', arc: 0, colour: [0.1, 0.1, 0.1] },
  width: 70,
  height: 12,
  at: { point: [0, 66, 35 * side], normal: [0, 0, side] },
  across: { from: 'middle', mm: 0 },
  up: { from: 'middle', mm: 0 },
  turn: 0,
  ink: { ...INK, roughness: 0.4 },
  ...more,
});
