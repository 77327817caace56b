import { briefFor } from '@wellmorph/core/brief/brief';
import { type AssetDocument, newDocument } from '@wellmorph/core/pipeline/document';
import { DIAL, FLAME, GLASS, HANDLED_BRASS, IRON } from './materials';
import { GAUGE_PRINTS } from './prints';
import { lineSketch, part, profileOf, step } from './written';

/** The brass aneroid gauge: case, dial behind its pane with an air gap, knurled rim, needle, screws. Lying on its back. */
export function aneroidGauge(): AssetDocument {
  const brief = { ...briefFor('product'), sizeMm: [185.8, 54.8, 185.7] as [number, number, number] };
  brief.limits = { ...brief.limits, triangles: 6000, textureSize: 1024, memoryMB: 24 };
  return {
    ...newDocument('Brass aneroid gauge', brief),
    materials: [HANDLED_BRASS, IRON, GLASS, FLAME, DIAL],
    prints: GAUGE_PRINTS,
    parts: [
      part('case', 'Case', 'body', 'brass', [
        {
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
        },
      ]),
      part('dial', 'Dial', 'print', 'dial', [
        {
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
        },
      ]),
      part('pane', 'Pane', 'glass', 'glass', [
        {
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
        },
      ]),
      part(
        'rim',
        'Knurled rim',
        'body',
        'brass',
        [
          step('band', 'rim-knurl', 'Knurl', {
            radius: 92.2,
            height: 8,
            wall: 1.6,
            columns: 90,
            rows: 1,
            pattern: 'columns',
            depth: 0.7,
            inset: 0.3,
            twistDegrees: 0,
          }),
        ],
        { move: [0, 39, 0] },
      ),
      part(
        'needle',
        'Needle',
        'body',
        'iron',
        [
          step('plate', 'needle-plate', 'Needle', {
            thickness: 0.6,
            lies: 'flat',
            edgeRadius: 0.15,
            sketch: lineSketch(
              [
                [-24, -3.4],
                [0, -2.6],
                [62, -0.4],
                [62, 0.4],
                [0, 2.6],
                [-24, 3.4],
              ],
              true,
            ),
          }),
          step('turned', 'needle-boss', 'Boss', {
            body: 'solid',
            edgeRadius: 0.3,
            rings: [],
            profile: profileOf(
              [
                [4, -1.8],
                [4, 1.6],
                [0, 2.4],
              ],
              [['boss'], ['top', 'arc', 0.4]],
            ),
          }),
        ],
        { move: [0, 37.6, 0], turnDegrees: [0, 52, 0] },
      ),
      part(
        'screws',
        'Case screws',
        'fastener',
        'brass',
        [
          step('turned', 'screw-head', 'Screw head', {
            body: 'solid',
            edgeRadius: 0.3,
            rings: [],
            profile: profileOf(
              [
                [0, -2.8],
                [3, -2.2],
                [3, 0.5],
              ],
              [['head', 'arc', 0.3], ['rim']],
            ),
          }),
          step('array', 'screws-round', 'Three round', { count: 3, x: -70, z: 0, startDegrees: 0 }),
        ],
        { move: [70, 0, 0] },
      ),
    ],
  };
}
