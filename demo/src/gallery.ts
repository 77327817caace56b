import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { CANVAS, HANDLED_BRASS, IRON, RUBBER, WEBBING, WHITE, WOOD } from './materials';
import { dimension, lineSketch, part, path, piece, profileOf, step } from './written';

/** An oar: a blade swept from plan and side, a round loom, a grip and a leather collar. */
export function oar(): AssetDocument {
  const blade = step('blade', 'oar-blade', 'Blade', {
    plan: lineSketch(
      [
        [0, -24],
        [150, -52],
        [560, -74, 14],
        [640, -60],
        [640, 60, 14],
        [560, 74],
        [150, 52],
        [0, 24],
      ],
      true,
    ),
    side: lineSketch(
      [
        [-10, 0],
        [120, 0, -6],
        [660, 22],
      ],
      false,
    ),
    stations: [
      { id: 's1', at: 0, thickness: 44, squareness: 2 },
      { id: 's2', at: 220, thickness: 22, squareness: 2.2 },
      { id: 's3', at: 620, thickness: 8, squareness: 2.6 },
    ],
  });
  return piece(
    'Gig oar',
    { purpose: 'game', size: [2440, 68, 163.4], triangles: 2400, closestMm: 1800, deadline: '2026-12-18' },
    [WOOD, RUBBER, WHITE],
    [
      part('blade', 'Blade', 'body', 'white', [
        blade,
        // Its sections stand closer than its long straight runs need.
        step('clear', 'oar-clear', 'Idle loops', { within: 0.04 }),
        // The thin edge all round is seen as an edge.
        step('shade', 'oar-shade', 'Shading', { hard: 'creases', weighted: false }),
      ]),
      part('loom', 'Loom', 'body', 'wood', [
        step('bar', 'oar-loom', 'Loom', { radius: 22, edgeRadius: 1.5, path: path([-1660, 0, 0], [14, 0, 0]) }),
      ]),
      part('grip', 'Grip', 'body', 'wood', [
        step('bar', 'oar-grip', 'Grip', {
          section: 'oval',
          width: 34,
          height: 30,
          radius: 16,
          ends: 'round',
          edgeRadius: 1,
          path: path([-1800, 0, 0], [-1650, 0, 0]),
        }),
      ]),
      part(
        'collar',
        'Leather collar',
        'body',
        'rubber',
        [
          step('turned', 'oar-collar', 'Collar', {
            body: 'solid',
            edgeRadius: 1,
            rings: [],
            profile: profileOf(
              [
                [26, -90, 2],
                [26, 90],
                [34, 90, 2],
                [34, 102],
              ],
              [['leather'], ['step'], ['button']],
            ),
          }),
        ],
        { move: [-1160, 0, 0], turnDegrees: [0, 0, -90] },
      ),
    ],
  );
}

/** An octagonal ventilator with slats between its posts. */
export function ventilator(): AssetDocument {
  const across = 360;
  return piece(
    'Octagonal ventilator',
    { purpose: 'game', size: [433, 540, 433], triangles: 1800, closestMm: 1500, deadline: '2026-12-16' },
    [WHITE, IRON, HANDLED_BRASS],
    [
      part(
        'kerb',
        'Kerb',
        'body',
        'white',
        [step('prism', 'vent-kerb', 'Kerb', { sides: 8, acrossFlats: across + 12, height: 70, body: 'tube', wall: 24, edgeRadius: 1.5 })],
        { turnDegrees: [0, 22.5, 0] },
      ),
      part(
        'posts',
        'Posts',
        'body',
        'white',
        [
          step('box', 'vent-post', 'Post', { width: 26, depth: 26, height: 262, corner: 0, edgeRadius: 1.5 }),
          step('array', 'vent-posts', 'Eight posts', { count: 8, x: -170, z: 0, startDegrees: 0 }),
        ],
        { move: [170, 66, 0] },
      ),
      part('slats', 'Slats', 'body', 'white', [
        step('panel', 'vent-slat', 'Slat', {
          width: 118,
          height: 52,
          thickness: 5,
          field: 'plain',
          corner: 0,
          edgeRadius: 0.8,
        }),
        step('place', 'vent-tilt', 'Tilted outward', { x: 0, y: 88, z: 166, turnX: 42, turnY: 0, turnZ: 0 }),
        step('row', 'vent-stack', 'Six high', { count: 6, dx: 0, dy: 38, dz: 0 }),
        step('array', 'vent-sides', 'Eight sides', { count: 8, x: 0, z: 0, startDegrees: 22.5 }),
      ]),
      part(
        'eaves',
        'Eaves',
        'body',
        'iron',
        [step('prism', 'vent-eaves', 'Eaves', { sides: 8, acrossFlats: across + 40, height: 16, edgeRadius: 1 })],
        { move: [0, 329, 0], turnDegrees: [0, 22.5, 0] },
      ),
      part(
        'roof',
        'Roof',
        'body',
        'iron',
        [step('prism', 'vent-roof', 'Roof', { sides: 8, acrossFlats: across + 10, height: 128, taper: 0.18, bulge: -14, edgeRadius: 1.5 })],
        { move: [0, 344, 0], turnDegrees: [0, 22.5, 0] },
      ),
      part('finial', 'Finial', 'fastener', 'brass', [
        step('turned', 'vent-finial', 'Finial', {
          body: 'solid',
          edgeRadius: 1,
          rings: [],
          profile: profileOf(
            [
              [26, 470],
              [26, 482, 3],
              [11, 490, 3],
              [11, 500],
              [0, 540],
            ],
            [['foot'], ['top'], ['neck'], ['ball', 'arc', 9]],
          ),
        }),
      ]),
    ],
  );
}

/** The gallery ladder: two stiles, rungs in a row, hooks over the rail, rubber feet. */
export function ladder(): AssetDocument {
  return piece(
    'Gallery ladder',
    { purpose: 'game', size: [408, 1716, 130], triangles: 2200, closestMm: 1500, deadline: '2026-12-21' },
    [IRON, RUBBER, HANDLED_BRASS],
    [
      part('stiles', 'Stiles', 'body', 'iron', [
        step('bar', 'ladder-stile', 'Stile', {
          section: 'rectangle',
          width: 24,
          height: 48,
          corner: 4,
          radius: 12,
          edgeRadius: 1,
          path: path([-180, 12, 0], [-180, 1620, 0]),
          formulas: { 'path.a.x': '-width / 2', 'path.b.x': '-width / 2' },
        }),
        step('row', 'ladder-stiles', 'Two stiles', { count: 2, dx: 360, dy: 0, dz: 0, formulas: { dx: 'width' } }),
      ]),
      part('rungs', 'Rungs', 'body', 'iron', [
        step('bar', 'ladder-rung', 'Rung', {
          radius: 12,
          edgeRadius: 1,
          path: path([-176, 170, 0], [176, 170, 0]),
          formulas: { 'path.a.x': '4 - width / 2', 'path.b.x': 'width / 2 - 4' },
        }),
        step('row', 'ladder-rungs', 'Six rungs', { count: 6, dx: 0, dy: 260, dz: 0, formulas: { dy: 'pitch' } }),
      ]),
      part('hooks', 'Hooks', 'body', 'brass', [
        step('bar', 'ladder-hook', 'Hook', {
          radius: 9,
          edgeRadius: 1,
          path: path([-180, 1600, 0], [-180, 1707, 0, 36], [-180, 1707, -93, 36], [-180, 1640, -93]),
          formulas: { 'path.a.x': '-width / 2', 'path.b.x': '-width / 2', 'path.c.x': '-width / 2', 'path.d.x': '-width / 2' },
        }),
        step('row', 'ladder-hooks', 'Two hooks', { count: 2, dx: 360, dy: 0, dz: 0, formulas: { dx: 'width' } }),
      ]),
      part(
        'feet',
        'Feet',
        'body',
        'rubber',
        [
          step('box', 'ladder-foot', 'Foot', { width: 32, height: 40, depth: 56, corner: 6, edgeRadius: 1.5 }),
          step('row', 'ladder-feet', 'Two feet', { count: 2, dx: 360, dy: 0, dz: 0, formulas: { dx: 'width' } }),
        ],
        { move: [-180, 0, 0] },
      ),
    ],
    { dimensions: [dimension('width', '360'), dimension('pitch', '260')] },
  );
}

/** The kapok life jacket: stuffed canvas blocks, straps and a buckle. */
export function lifeJacket(): AssetDocument {
  const block = (id: string, name: string, width: number, height: number, depth: number) =>
    step('soft', id, name, {
      width,
      height,
      depth,
      cellsX: 3,
      cellsY: 3,
      cellsZ: 1,
      crease: 0.25,
      creaseFoot: 0.25,
      levelsLow: 1,
      levelsHigh: 3,
      pushes: [{ id: 'a', x: 0, y: height / 2, z: depth / 2, dx: 0, dy: 0, dz: depth * 0.18, reach: Math.max(width, height) * 0.7 }],
    });
  const strap = (id: string, name: string, points: Parameters<typeof path>) =>
    step('bar', id, name, { section: 'rectangle', width: 34, height: 4, corner: 0.8, radius: 2, edgeRadius: 0.4, path: path(...points) });
  return piece(
    'Kapok life jacket',
    { purpose: 'game', size: [372, 548, 254], triangles: 4200, closestMm: 900, deadline: '2026-12-23' },
    [CANVAS, WEBBING, HANDLED_BRASS],
    [
      part(
        'front',
        'Front blocks',
        'body',
        'canvas',
        [
          block('jacket-front', 'Front block', 170, 190, 66),
          step('row', 'jacket-fronts', 'Two beside', { count: 2, dx: 186, dy: 0, dz: 0 }),
          step('row', 'jacket-front-rows', 'Two above', { count: 2, dx: 0, dy: 206, dz: 0 }),
        ],
        { move: [-93, 0, 78] },
      ),
      part(
        'back',
        'Back blocks',
        'body',
        'canvas',
        [
          block('jacket-back', 'Back block', 350, 190, 60),
          step('row', 'jacket-back-rows', 'Two above', { count: 2, dx: 0, dy: 206, dz: 0 }),
        ],
        { move: [0, 0, -84], turnDegrees: [0, 180, 0] },
      ),
      part('collar', 'Collar', 'body', 'canvas', [block('jacket-collar', 'Collar', 300, 150, 54)], {
        move: [0, 398, -82],
        turnDegrees: [0, 180, 0],
      }),
      part('straps', 'Shoulder straps', 'body', 'webbing', [
        strap('jacket-strap', 'Strap', [
          [-104, 380, 80],
          [-104, 462, 76, 30],
          [-104, 462, -56, 30],
          [-104, 380, -60],
        ]),
        step('row', 'jacket-straps', 'Two', { count: 2, dx: 208, dy: 0, dz: 0 }),
      ]),
      part('belt', 'Belt', 'body', 'webbing', [
        step('bar', 'jacket-belt', 'Belt', {
          section: 'rectangle',
          width: 4,
          height: 36,
          corner: 0.8,
          radius: 2,
          edgeRadius: 0.4,
          path: path([-20, 98, 126], [-184, 98, 126, 40], [-184, 98, -124, 40], [184, 98, -124, 40], [184, 98, 126, 40], [20, 98, 126]),
        }),
      ]),
      part(
        'buckle',
        'Buckle',
        'fastener',
        'brass',
        [
          step('panel', 'jacket-buckle', 'Buckle', {
            width: 62,
            height: 54,
            thickness: 6,
            field: 'open',
            left: 6,
            right: 6,
            top: 6,
            bottom: 6,
            corner: 5,
            edgeRadius: 0.6,
          }),
        ],
        { move: [0, 71, 123.2] },
      ),
    ],
  );
}
