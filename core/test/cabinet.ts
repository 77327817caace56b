import { briefFor } from '../src/brief/brief';
import { kindOf, type Step, type StepName } from '../src/form/steps/index';
import { type AssetDocument, newDocument, type Part } from '../src/pipeline/document';
import { fromLibrary } from '../src/surface/library';

const step = <K extends StepName>(kind: K, id: string, more: Partial<Extract<Step, { kind: K }>>): Step =>
  ({ kind, id, enabled: true, ...kindOf(kind).fresh(), ...more }) as unknown as Step;
const part = (id: string, name: string, material: string, at: [number, number, number], one: Step): Part => ({
  id,
  name,
  role: 'body',
  material,
  move: at,
  turnDegrees: [0, 0, 0],
  shape: { kind: 'recipe', steps: [one] },
  weight: 1,
  declaredOpen: false,
});
const board = (id: string, width: number, height: number, depth: number) =>
  step('box', id, { name: id, width, height, depth, body: 'solid', corner: 0 });

/** Length of all edges of a box, and its area; mm, mm². */
export const boxOf = (w: number, h: number, d: number) => ({ edges: 4 * (w + h + d), area: 2 * (w * h + w * d + h * d) });
/** The cabinet’s top, and its knobs: a plain cylinder. */
export const TOP = [1000, 24, 400] as const;
export const KNOB = { diameter: 20, high: 14 };
/** How wide its worn edges are, mm. */
export const WORN_MM = 0.8;

/** A cabinet a metre wide: two woods, knobs of brushed metal, a smudged pane. */
export function cabinet(): AssetDocument {
  const d = newDocument('Chart cabinet', briefFor('game'));
  const knob = (id: string, x: number) =>
    part(
      id,
      id === 'knob-l' ? 'Left knob' : 'Right knob',
      'metal',
      [x, 300, 200],
      step('turned', `${id}-body`, {
        name: 'Knob',
        body: 'solid',
        profile: {
          points: [
            { id: 'p0', r: KNOB.diameter / 2, y: 0 },
            { id: 'p1', r: KNOB.diameter / 2, y: KNOB.high },
          ],
          segments: [{ id: 's0', name: 'wall', kind: 'line' }],
        },
      }),
    );
  return {
    ...d,
    brief: { ...d.brief, sizeMm: [1000, 724, 414], limits: { ...d.brief.limits, triangles: 1200, textureSize: 1024, memoryMB: 40 } },
    materials: [
      { ...fromLibrary('oiled-wood', 'oak'), name: 'Oak' },
      { ...fromLibrary('walnut', 'walnut'), name: 'Walnut' },
      { ...fromLibrary('brushed-aluminium', 'metal'), name: 'Brushed metal' },
      { ...fromLibrary('smudged-glass', 'glass'), name: 'Pane' },
    ],
    parts: [
      part('top', 'Top', 'oak', [0, 700, 0], board('top-board', ...TOP)),
      part('left', 'Left side', 'oak', [-480, 0, 0], board('left-board', 20, 700, 380)),
      part('right', 'Right side', 'oak', [480, 0, 0], board('right-board', 20, 700, 380)),
      part('front-l', 'Left front', 'walnut', [-236, 180, 180], board('front-l-board', 460, 240, 20)),
      part('front-r', 'Right front', 'walnut', [236, 180, 180], board('front-r-board', 460, 240, 20)),
      part('pane', 'Pane', 'glass', [0, 440, 180], board('pane-sheet', 930, 240, 4)),
      knob('knob-l', -236),
      knob('knob-r', 236),
    ],
  };
}
