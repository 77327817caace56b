import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { ladder, lifeJacket, oar, ventilator } from './gallery';
import { flagLocker, keepersChest, stormGlass, waterBucket } from './lamp-room';
import { CREAM, GREEN, HANDLED_BRASS, IRON, TIN } from './materials';
import { TIN_PRINTS, TIN_VARIANTS, TUBE_PRINTS } from './prints';
import { bailingScoop, dayMarkBuoy, foghorn, pinRail, rationBiscuit, seaCable, signalFlag } from './sea';
import { dimension, lineSketch, part, path, piece, profileOf, step } from './written';

/** The enamel oil can: a turned body, a spout, a handle, a screwed cap. */
export function oilCan(): AssetDocument {
  const body = step('turned', 'can-body', 'Body', {
    body: 'wall',
    wall: 1.2,
    edgeRadius: 0.8,
    profile: profileOf(
      [
        [0, 0],
        [55, 0, 3],
        [55, 92, 6],
        [16, 128, 4],
        [16, 140],
      ],
      [['floor'], ['wall'], ['shoulder', 'arc', 4], ['neck']],
    ),
    rings: [
      { segment: 's1', at: 0.08, width: 2.4, depth: 0.8 },
      { segment: 's1', at: 0.92, width: 2.4, depth: 0.8 },
    ],
  });
  const cap = step('turned', 'can-cap', 'Cap', {
    edgeRadius: 0.6,
    profile: profileOf(
      [
        [17.4, 132],
        [17.4, 143, 1],
        [6, 145.5],
        [6, 151],
        [0, 152],
      ],
      [['skirt'], ['top'], ['knob'], ['knob top', 'arc', 0.4]],
    ),
    rings: [],
    body: 'solid',
  });
  return piece(
    'Enamel oil can',
    { purpose: 'game', size: [188, 158, 110], triangles: 3600, deadline: '2026-12-09' },
    [CREAM, GREEN, HANDLED_BRASS],
    [
      part('body', 'Body and handle', 'body', 'cream', [
        body,
        step('bar', 'can-handle', 'Handle', {
          section: 'oval',
          width: 15,
          height: 6,
          radius: 3,
          edgeRadius: 0.4,
          path: path([-57, 76, 0], [-76, 76, 0, 10], [-76, 24, 0, 10], [-57, 24, 0]),
        }),
        step('join', 'can-joint', 'Joint', {}),
      ]),
      part('cap', 'Cap', 'fastener', 'brass', [cap]),
      part('spout', 'Spout', 'body', 'cream', [
        step('bar', 'can-spout', 'Spout', {
          radius: 5.2,
          edgeRadius: 0.5,
          path: path([50, 26, 0], [74, 62, 0, 40], [80, 128, 0, 26], [100, 155, 0]),
        }),
      ]),
    ],
  );
}

/** The biscuit tin by recipe: body and hinged lid from shared dimensions, 0.4 mm of clearance between them. */
export function hingedTin(): AssetDocument {
  const box = (id: string, name: string, formulas: Record<string, string>) =>
    step('box', id, name, {
      body: 'hollow',
      sizeIs: 'inside',
      width: 200,
      height: 100,
      depth: 130,
      left: 0.8,
      right: 0.8,
      front: 0.8,
      back: 0.8,
      floor: 0.8,
      corner: 24,
      edgeRadius: 0.3,
      formulas: { left: 'sheet', right: 'sheet', front: 'sheet', back: 'sheet', floor: 'sheet', ...formulas },
    });
  return piece(
    'Hinged biscuit tin',
    { purpose: 'game', size: [204, 104.6, 138.9], triangles: 1600, deadline: '2026-12-11' },
    [TIN, GREEN, HANDLED_BRASS],
    [
      part('body', 'Body', 'print', 'green', [
        box('tin-body', 'Body', { width: 'opening', depth: 'room', height: 'inside_height', corner: 'corner' }),
      ]),
      part(
        'lid',
        'Lid',
        'print',
        'green',
        [
          box('tin-lid', 'Lid', {
            width: 'opening + 2*sheet + 2*clearance',
            depth: 'room + 2*sheet + 2*clearance',
            height: 'lid_height',
            corner: 'corner + sheet + clearance',
          }),
        ],
        { move: [0, 104.6, 0], turnDegrees: [180, 0, 0] },
      ),
      part(
        'hinge',
        'Hinge',
        'fastener',
        'tin',
        [
          step('bar', 'tin-knuckle', 'Knuckle', { radius: 1.8, edgeRadius: 0.3, path: path([-8, 84, -69.2], [8, 84, -69.2]) }),
          step('row', 'tin-knuckles', 'Knuckles', { count: 4, dx: 34, dy: 0, dz: 0 }),
        ],
        { move: [-51, 0, 0] },
      ),
      part(
        'clasp',
        'Clasp',
        'fastener',
        'brass',
        [
          step('plate', 'tin-clasp', 'Clasp', {
            thickness: 1,
            lies: 'upright',
            edgeRadius: 0.25,
            sketch: lineSketch(
              [
                [-9, 74],
                [9, 74],
                [9, 92, 3],
                [-9, 92],
              ],
              true,
            ),
          }),
        ],
        { move: [0, 0, 66.9] },
      ),
    ],
    {
      dimensions: [
        dimension('opening', '200'),
        dimension('room', '130'),
        dimension('inside_height', '100'),
        dimension('lid_height', '28'),
        dimension('corner', '24'),
        dimension('sheet', '0.8'),
        dimension('clearance', '0.4'),
      ],
      prints: TIN_PRINTS,
      variants: TIN_VARIANTS,
    },
  );
}

/** The lamp grease tube: soft tin, folded and crimped, with a knurled cap. */
export function greaseTube(): AssetDocument {
  return piece(
    'Lamp grease tube',
    { purpose: 'product', size: [51.8, 124.3, 33.3], triangles: 6000, deadline: '2026-12-14' },
    [TIN, IRON],
    [
      part(
        'tube',
        'Tube',
        'print',
        'tin',
        [
          step('tube', 'grease-tube', 'Tube', {
            radius: 16.5,
            body: 106,
            neckRadius: 6,
            neckHeight: 10,
            shoulder: 5,
            flat: 1.4,
            flap: 9,
            folds: 1,
            crimp: 0.9,
            seam: 0.35,
            minimumSides: 40,
          }),
          step('shade', 'grease-shade', 'Shading', { hard: 'creases', weighted: false }),
        ],
        { move: [0, 1.5, 0] },
      ),
      part('cap', 'Cap', 'fastener', 'iron', [
        step('band', 'grease-knurl', 'Knurl', {
          radius: 9.5,
          height: 12,
          wall: 1.4,
          columns: 36,
          rows: 1,
          pattern: 'columns',
          depth: 0.5,
          inset: 0.1,
          twistDegrees: 0,
        }),
        step('turned', 'grease-top', 'Cap top', {
          body: 'solid',
          edgeRadius: 0.4,
          rings: [],
          profile: profileOf(
            [
              [8.6, 0.4],
              [8.6, 9.6],
            ],
            [['plug']],
          ),
        }),
      ]),
    ],
    { prints: TUBE_PRINTS },
  );
}

/** Every piece of the demo that is made by recipe alone. */
export const RECIPES: Record<string, () => AssetDocument> = {
  'enamel oil can': oilCan,
  'hinged biscuit tin': hingedTin,
  'lamp grease tube': greaseTube,
  'gig oar': oar,
  'octagonal ventilator': ventilator,
  'gallery ladder': ladder,
  'kapok life jacket': lifeJacket,
  'keeper’s chest': keepersChest,
  'storm glass': stormGlass,
  'flag locker': flagLocker,
  'day-mark buoy': dayMarkBuoy,
  'sea-cable sample': seaCable,
  foghorn,
  'bailing scoop': bailingScoop,
  'signal flag': signalFlag,
  'ration biscuit': rationBiscuit,
  'water bucket': waterBucket,
  'pin rail': pinRail,
};
