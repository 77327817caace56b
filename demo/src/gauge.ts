import { briefFor } from '@wellmorph/core/brief/brief';
import { type AssetDocument, newDocument, type Part } from '@wellmorph/core/pipeline/document';
import { fromLibrary } from '@wellmorph/core/surface/library';
import { DEMO_MATERIALS, profileOf } from './lantern';

/** The brass aneroid gauge, so far only its case, dial and pane: Ø 180 mm, 52 mm deep, lying on its back. */
export function aneroidGauge(): AssetDocument {
  const brief = { ...briefFor('product'), sizeMm: [180, 52, 180] as [number, number, number] };
  brief.limits = { ...brief.limits, triangles: 6000, textureSize: 1024, memoryMB: 16 };
  const part = (
    id: string,
    name: string,
    role: Part['role'],
    material: string,
    step: Extract<Part['shape'], { kind: 'recipe' }>['steps'][number],
  ): Part => ({
    id,
    name,
    role,
    material,
    move: [0, 0, 0],
    turnDegrees: [0, 0, 0],
    shape: { kind: 'recipe', steps: [step] },
    weight: 1,
    declaredOpen: false,
  });
  return {
    ...newDocument('Brass aneroid gauge', brief),
    materials: [
      ...DEMO_MATERIALS,
      { ...fromLibrary('enamel', 'dial'), name: 'Enamelled dial', colour: [0.92, 0.9, 0.84], roughness: 0.4, wear: null },
    ],
    parts: [
      part('case', 'Case', 'body', 'brass', {
        kind: 'turned',
        id: 'case-turned',
        name: 'Case',
        enabled: true,
        body: 'wall',
        wall: 3,
        edgeRadius: 1,
        rings: [{ segment: 's1', at: 0.5, width: 2, depth: 0.9 }],
        profile: profileOf(
          [
            [0, 0],
            [82, 0, 6],
            [84, 34],
            [90, 38],
            [90, 48],
            [84, 52],
          ],
          [['back'], ['wall'], ['flare'], ['bezel'], ['bezel face']],
        ),
      }),
      part('dial', 'Dial', 'print', 'dial', {
        kind: 'turned',
        id: 'dial-turned',
        name: 'Dial',
        enabled: true,
        body: 'solid',
        edgeRadius: 0.3,
        rings: [{ segment: 's1', at: 0.12, width: 0.8, depth: 0.3 }],
        profile: profileOf(
          [
            [79, 34],
            [79, 35.5],
            [0, 35.5],
          ],
          [['rim'], ['face']],
        ),
      }),
      part('pane', 'Pane', 'glass', 'glass', {
        kind: 'turned',
        id: 'pane-turned',
        name: 'Pane',
        enabled: true,
        body: 'solid',
        edgeRadius: 0.3,
        rings: [],
        profile: profileOf(
          [
            [80, 44],
            [80, 46],
            [0, 47],
          ],
          [['rim'], ['face', 'arc', 0.3]],
        ),
      }),
    ],
  };
}
