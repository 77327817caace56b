import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { CANVAS, CREAM, GLASS, GREEN, HANDLED_BRASS, IRON, JUTE, SPIRIT, WATER, WHITE, WOOD } from './materials';
import { CHEST_PRINTS, GLASS_PRINTS } from './prints';
import { between, facing, part, path, piece, profileOf, step } from './written';

/** The water bucket: staves with gaps that the wood closes when it is wet, a board between them, hoops, and water in what they close in. */
export function waterBucket(): AssetDocument {
  const [sides, foot, top, height, wall] = [12, 180, 216, 200, 14];
  const across = (y: number) => foot + ((top - foot) * y) / height;
  const hoop = (id: string, name: string, y: number, high: number) =>
    part(
      id,
      name,
      'body',
      'iron',
      [
        step('prism', `bucket-${id}`, name, {
          sides,
          acrossFlats: across(y) + 4.6,
          height: high,
          taper: (across(y + high) + 4.6) / (across(y) + 4.6),
          body: 'tube',
          wall: 2,
          edgeRadius: 0.4,
        }),
      ],
      { move: [0, y, 0] },
    );
  const inside = (y: number) => across(y) - 2 * wall - 0.8;
  return piece(
    'Water bucket',
    { purpose: 'game', size: [225.8, 326.9, 216], triangles: 1500, deadline: '2027-02-16' },
    [WOOD, IRON, WATER, JUTE],
    [
      part('staves', 'Staves', 'body', 'wood', [
        step('prism', 'bucket-staves', 'Staves', {
          sides,
          acrossFlats: foot,
          height,
          taper: top / foot,
          body: 'staves',
          wall,
          gap: 0.6,
          edgeRadius: 1.2,
        }),
      ]),
      part(
        'board',
        'Bottom board',
        'body',
        'wood',
        [
          step('prism', 'bucket-board', 'Board', {
            sides,
            acrossFlats: inside(16),
            height: 12,
            taper: inside(28) / inside(16),
            edgeRadius: 0.6,
          }),
        ],
        { move: [0, 16, 0] },
      ),
      part('water', 'Water', 'liquid', 'water', [
        step('fill', 'bucket-water', 'Water', {
          inside: 'staves',
          also: [{ id: 'b', part: 'board' }],
          shut: 1.4,
          by: 'level',
          level: 118,
          wall: 'gap',
          wallMm: 0.05,
        }),
      ]),
      hoop('lower', 'Lower hoop', 34, 22),
      hoop('upper', 'Upper hoop', 150, 22),
      part('rope', 'Rope handle', 'body', 'jute', [
        step('bar', 'bucket-rope', 'Rope', {
          radius: 5,
          ends: 'round',
          edgeRadius: 0.5,
          path: path([-108, 186, 0], [-108, 322, 0, 100], [108, 322, 0, 100], [108, 186, 0]),
        }),
      ]),
    ],
  );
}

/** The keeper's chest: a body with plank seams cut round it, iron bands with rivets, a lid, a tray that lifts out. */
export function keepersChest(): AssetDocument {
  const [width, depth, height] = [460, 280, 220];
  return piece(
    'Keeper’s chest',
    { purpose: 'game', size: [500, 272, 289], triangles: 4200, closestMm: 1200, deadline: '2027-01-08' },
    [WOOD, IRON, HANDLED_BRASS],
    [
      part('body', 'Body', 'body', 'wood', [
        step('box', 'chest-body', 'Body', {
          width,
          depth,
          height,
          body: 'hollow',
          left: 14,
          right: 14,
          front: 14,
          back: 14,
          floor: 12,
          corner: 0,
          edgeRadius: 0,
        }),
        step('combine', 'chest-seams', 'Plank seams', { how: 'cut', with: 'kerf' }),
        step('bevel', 'chest-edges', 'Edges', { in: 'high', degrees: 60, sizeIs: 'radius', size: 0.7 }),
      ]),
      part(
        'kerf',
        'Saw kerfs',
        'body',
        'wood',
        [
          step('box', 'chest-kerf', 'Kerf', {
            width: width + 20,
            depth: depth + 20,
            height: 2,
            body: 'hollow',
            left: 11.5,
            right: 11.5,
            front: 11.5,
            back: 11.5,
            floor: 0,
            corner: 0,
            edgeRadius: 0,
          }),
          step('row', 'chest-kerfs', 'Two of them', { count: 2, dx: 0, dy: 72, dz: 0, applied: true }),
        ],
        { move: [0, 73, 0], aid: true },
      ),
      part(
        'lid',
        'Lid',
        'body',
        'wood',
        [
          step('box', 'chest-lid', 'Lid', { width: width + 8, depth: depth + 4, height: 44, corner: 0, edgeRadius: 0 }),
          step('inset', 'chest-lid-panel', 'Raised field', { region: 'top', shape: 'slope', inset: 26, push: 8 }),
          step('bevel', 'chest-lid-edges', 'Edges', { in: 'high', degrees: 30, sizeIs: 'radius', size: 1 }),
        ],
        { move: [0, height, 0], regions: [facing('top', 'Top', [0, 1, 0])] },
      ),
      part('bands', 'Bands', 'body', 'iron', [
        step('box', 'chest-band', 'Band', { width: 32, height: 212, depth: 2, corner: 0, edgeRadius: 0 }),
        step('bevel', 'chest-band-edges', 'Edges', { in: 'high', degrees: 60, sizeIs: 'radius', size: 0.4 }),
        step('place', 'chest-band-place', 'Against the front', { x: -150, y: 4, z: depth / 2 + 0.95, turnX: 0, turnY: 0, turnZ: 0 }),
        step('row', 'chest-bands', 'Two', { count: 2, dx: 300, dy: 0, dz: 0 }),
        step('mirror', 'chest-bands-back', 'And behind', { axis: 'z', at: 0, applied: false, weld: 0 }),
      ]),
      part('rivets', 'Rivets', 'fastener', 'brass', [
        step('turned', 'chest-rivet', 'Rivet', {
          edgeRadius: 0.2,
          profile: profileOf(
            [
              [4.4, 0],
              [3, 2.2],
              [0, 2.8],
            ],
            [
              ['skirt', 'arc', 0.5],
              ['head', 'arc', 0.2],
            ],
          ),
        }),
        step('place', 'chest-rivet-place', 'On a band', { x: -150, y: 22, z: depth / 2 + 1.8, turnX: 90, turnY: 0, turnZ: 0 }),
        step('row', 'chest-rivet-column', 'Four up', { count: 4, dx: 0, dy: 58, dz: 0 }),
        step('row', 'chest-rivet-bands', 'Two bands', { count: 2, dx: 300, dy: 0, dz: 0 }),
        step('mirror', 'chest-rivets-back', 'And behind', { axis: 'z', at: 0, applied: false, weld: 0 }),
      ]),
      part('cleats', 'Cleats', 'body', 'wood', [
        step('box', 'chest-cleat', 'Cleat', { width: 10, height: 16, depth: 240, corner: 0, edgeRadius: 0 }),
        step('bevel', 'chest-cleat-edges', 'Edges', { degrees: 60, size: 1.5 }),
        step('place', 'chest-cleat-place', 'Inside', { x: width / 2 - 14 - 4.5, y: 124, z: 0, turnX: 0, turnY: 0, turnZ: 0 }),
        step('mirror', 'chest-cleats', 'Both ends', { axis: 'x', at: 0, applied: false, weld: 0 }),
      ]),
      part(
        'tray',
        'Lift-out tray',
        'body',
        'wood',
        [
          step('fitted', 'chest-tray', 'Tray', {
            to: 'body',
            at: 180,
            clearX: 1.5,
            clearY: 128,
            clearZ: 1.5,
            height: 68,
            wall: 7,
            floor: 6,
          }),
          step('bevel', 'chest-tray-edges', 'Edges', { in: 'high', degrees: 60, sizeIs: 'radius', size: 0.8 }),
        ],
        { travel: { kind: 'slide', axis: 'y', from: 0, to: 10, x: 0, y: 0, z: 0 } },
      ),
      part('handles', 'Handles', 'body', 'iron', [
        step('bar', 'chest-handle', 'Handle', {
          radius: 5,
          edgeRadius: 0.5,
          path: path([width / 2 - 5, 150, -48], [width / 2 + 15, 150, -48, 12], [width / 2 + 15, 150, 48, 12], [width / 2 - 5, 150, 48]),
        }),
        step('mirror', 'chest-handles', 'Both ends', { axis: 'x', at: 0, applied: false, weld: 0 }),
      ]),
    ],
    {
      relations: [
        between('lid', 'body', 'resting'),
        between('tray', 'cleats', 'resting'),
        between('tray', 'body', 'gap', 1.5),
        between('handles', 'body', 'sunk', 5),
      ],
      prints: CHEST_PRINTS,
    },
  );
}

/** The storm glass: a sealed tube of spirit and crystals, held by two straps on a board. */
export function stormGlass(): AssetDocument {
  const strap = (id: string, y: number) =>
    step('bar', id, 'Strap', {
      section: 'rectangle',
      width: 1.2,
      height: 12,
      radius: 1,
      edgeRadius: 0.3,
      path: path([-22, y, 10.6], [-13.4, y, 10.6, 6.5], [-13.4, y, 35.6, 13], [13.4, y, 35.6, 13], [13.4, y, 10.6, 6.5], [22, y, 10.6]),
    });
  return piece(
    'Storm glass',
    { purpose: 'product', size: [70, 260, 36.2], triangles: 4200, closestMm: 500, deadline: '2027-01-12' },
    [WOOD, GLASS, SPIRIT, HANDLED_BRASS],
    [
      part('board', 'Board', 'body', 'wood', [
        step('box', 'glass-board', 'Board', { width: 70, height: 260, depth: 10, corner: 0, edgeRadius: 0 }),
        step('bevel', 'glass-board-edges', 'Edges', { degrees: 60, size: 2.4, segments: 2 }),
        step('engrave', 'glass-board-name', 'Name', {
          text: 'PELLAMERE',
          height: 5,
          depth: 0.5,
          at: { patch: 'glass-board/front', u: 0.5, v: 0.085 },
        }),
        step('place', 'glass-board-place', 'Behind', { x: 0, y: 0, z: 5, turnX: 0, turnY: 0, turnZ: 0 }),
      ]),
      part(
        'tube',
        'Sealed tube',
        'glass',
        'glass',
        [
          step('turned', 'glass-tube', 'Tube', {
            body: 'solid',
            edgeRadius: 0,
            profile: profileOf(
              [
                [0, 30],
                [12, 42],
                [12, 214],
                [0, 226],
              ],
              [['round end', 'arc', 3.5147], ['wall'], ['crown', 'arc', 3.5147]],
            ),
          }),
          step('shell', 'glass-wall', 'Wall', { thickness: 1.1 }),
        ],
        { move: [0, 0, 22.5] },
      ),
      part(
        'spirit',
        'Spirit',
        'liquid',
        'spirit',
        [step('fill', 'glass-spirit', 'Spirit', { inside: 'tube', by: 'level', level: 138, wall: 'gap', wallMm: 0.05 })],
        { move: [0, 0, 22.5] },
      ),
      part('straps', 'Straps', 'body', 'brass', [
        strap('glass-strap', 62),
        step('row', 'glass-straps', 'Two', { count: 2, dx: 0, dy: 122, dz: 0 }),
      ]),
      part('screws', 'Screws', 'fastener', 'brass', [
        step('turned', 'glass-screw', 'Screw', {
          edgeRadius: 0.2,
          profile: profileOf(
            [
              [2.6, 0],
              [2.4, 1.2],
              [0, 1.7],
            ],
            [['rim'], ['head', 'arc', 0.15]],
          ),
        }),
        step('place', 'glass-screw-place', 'On a strap', { x: -17, y: 62, z: 11, turnX: 90, turnY: 0, turnZ: 0 }),
        step('row', 'glass-screw-sides', 'Left and right', { count: 2, dx: 34, dy: 0, dz: 0 }),
        step('row', 'glass-screw-straps', 'Two straps', { count: 2, dx: 0, dy: 122, dz: 0 }),
      ]),
    ],
    { relations: [between('spirit', 'tube', 'gap', 0.05, 0.01), between('board', 'straps', 'resting')], prints: GLASS_PRINTS },
  );
}

/** The flag locker: pigeonholes sunk into one block, rolled flags in some of them. */
export function flagLocker(): AssetDocument {
  const [columns, rows, width, height, depth] = [5, 4, 520, 420, 200];
  const lines = (axis: 'x' | 'y', count: number, size: number, from: number) =>
    Array.from({ length: count - 1 }, (_, i) =>
      step('cut', `locker-${axis}${i}`, `Division ${i + 1}`, { axis, at: from + (size * (i + 1)) / count, keep: 'line', cap: false }),
    );
  const rolled = (id: string, material: string, x: number, y: number) =>
    part(id, `Flag ${id.slice(-1)}`, 'body', material, [
      step('bar', `locker-${id}`, 'Rolled flag', {
        radius: 30,
        ends: 'bevelled',
        endSize: 4,
        edgeRadius: 1,
        path: path([x, y, -80], [x, y, 92]),
      }),
    ]);
  const [cellW, cellH] = [width / columns, height / rows];
  const cell = (i: number, j: number): [number, number] => [-width / 2 + (i + 0.5) * cellW, (j + 0.5) * cellH - cellH / 2 + 8 + 30.5];
  return piece(
    'Flag locker',
    { purpose: 'game', size: [544, 440, 212], triangles: 1900, closestMm: 1600, deadline: '2027-01-15' },
    [WOOD, CANVAS, CREAM, GREEN, WHITE],
    [
      part(
        'case',
        'Case',
        'body',
        'wood',
        [
          step('box', 'locker-case', 'Case', { width, height, depth, corner: 0, edgeRadius: 0 }),
          ...lines('x', columns, width, -width / 2),
          ...lines('y', rows, height, 0),
          step('inset', 'locker-holes', 'Pigeonholes', { region: 'front', shape: 'panel', inset: 8, push: -depth + 14, each: true }),
          step('clear', 'locker-lean', 'Idle loops', { within: 0.001 }),
          step('bevel', 'locker-edges', 'Edges', { in: 'high', degrees: 60, sizeIs: 'radius', size: 1.2 }),
        ],
        { regions: [facing('front', 'Front', [0, 0, 1])] },
      ),
      part(
        'cornice',
        'Cornice',
        'body',
        'wood',
        [
          step('box', 'locker-cornice', 'Cornice', { width: width + 24, height: 20, depth: depth + 12, corner: 0, edgeRadius: 0 }),
          step('bevel', 'locker-cornice-edges', 'Moulding', { degrees: 60, size: 5, segments: 3 }),
        ],
        { move: [0, height, 6] },
      ),
      ...(
        [
          ['flag-1', 'canvas', 0, 0],
          ['flag-2', 'cream', 1, 2],
          ['flag-3', 'green', 2, 1],
          ['flag-4', 'white', 3, 0],
          ['flag-5', 'canvas', 4, 3],
          ['flag-6', 'green', 0, 3],
          ['flag-7', 'cream', 3, 2],
        ] as const
      ).map(([id, material, i, j]) => rolled(id, material, ...cell(i, j))),
    ],
    { relations: [between('cornice', 'case', 'resting'), between('flag-1', 'case', 'gap', 0.5, 0.4)] },
  );
}
