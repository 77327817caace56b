import type { Place } from '@wellmorph/core/form/places';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { CANVAS, COPPER, CREAM, GREEN, HANDLED_BRASS, IRON, JUTE, RED, RUBBER, TIN, WHITE, WOOD } from './materials';
import { between, facing, lineSketch, part, path, piece, profileOf, roundedSketch, step } from './written';

/** Panels round the buoy. */
const PANELS = 12;
/** Every second strip of a turned surface, from foot to top: the same in the low and the high mesh. */
const strips = (step: string, which: 'odd' | 'even'): Place[] =>
  ['s0', 'p1.fillet', 's1', 'p2.fillet', 's2'].flatMap((patch) =>
    Array.from({ length: PANELS / 2 }, (_, i) => {
      const k = 2 * i + (which === 'odd' ? 1 : 0);
      return { patch: `${step}/${patch}`, u: [k / PANELS, (k + 1) / PANELS], v: [0, 1] };
    }),
  );

/** A section that hangs in an arc: `half` wide to either side of the path, `rise` up at its ends. */
const hanging = (half: number, rise: number) =>
  lineSketch(
    [
      [-half, rise, (rise > 0 ? 1 : 0) * rise],
      [half, rise],
    ],
    false,
  );
/** A section with two flat cheeks and round edges. */
const stadium = (width: number, height: number) =>
  lineSketch(
    [
      [-(width - height) / 2, -height / 2],
      [(width - height) / 2, -height / 2, height / 2],
      [(width - height) / 2, height / 2],
      [-(width - height) / 2, height / 2, height / 2],
    ],
    true,
  );

/** The bailing scoop: a bowl of hanging sections along a bent side, cut to its plan, and a grip that swells where a hand closes. */
export function bailingScoop(): AssetDocument {
  const section = (at: number, sketch: ReturnType<typeof stadium>) => ({ id: `s${at}`, at, sketch });
  return piece(
    'Bailing scoop',
    { purpose: 'game', size: [297.5, 84.5, 116.7], triangles: 2600, deadline: '2027-01-26' },
    [TIN, WOOD],
    [
      part('bowl', 'Bowl', 'body', 'tin', [
        step('sweep', 'scoop-bowl', 'Bowl', {
          along: 'sketch',
          route: roundedSketch(
            [
              [-24, 58],
              [34, 2, 70],
              [150, 2, 300],
              [222, 12],
            ],
            false,
          ),
          stations: [
            section(0, hanging(58, 40)),
            section(60, hanging(62, 46)),
            section(140, hanging(64, 46)),
            section(220, hanging(64, 42)),
          ],
          wall: 1.6,
          cut: 'plan',
          plan: roundedSketch(
            [
              [0, 34, 26],
              [0, -34, 26],
              [180, -60, 12],
              [190, 0, 220],
              [180, 60, 12],
            ],
            true,
          ),
        }),
      ]),
      part('grip', 'Grip', 'body', 'wood', [
        step('sweep', 'scoop-grip', 'Grip', {
          along: 'points',
          path: path([4, 30, 0], [-24, 68, 0, 40], [-110, 76, 0]),
          stations: [
            section(0, stadium(16, 9)),
            section(50, stadium(18, 12)),
            section(90, stadium(26, 20)),
            section(120, stadium(24, 18)),
            section(131, stadium(16, 12)),
          ],
        }),
      ]),
    ],
  );
}

/** The signal flag: cloth with two sides that ripples away from its staff. */
export function signalFlag(): AssetDocument {
  return piece(
    'Signal flag',
    { purpose: 'game', size: [262.8, 420, 33.2], triangles: 1100, deadline: '2027-02-02' },
    [CANVAS, WOOD, HANDLED_BRASS],
    [
      part('flag', 'Flag', 'body', 'canvas', [
        step('leaf', 'flag-cloth', 'Cloth', {
          lies: 'upright',
          sketch: lineSketch(
            [
              [6, 230],
              [256, 236],
              [216, 315],
              [256, 394],
              [6, 400],
            ],
            true,
          ),
          rise: 0,
          hollow: 0,
          foldDegrees: 0,
          sag: 0,
          ripples: 2,
          ripple: 22,
          thickness: 0,
        }),
      ]),
      part('staff', 'Staff', 'body', 'wood', [
        step('bar', 'flag-staff', 'Staff', { radius: 5, edgeRadius: 1, path: path([0, 0, 0], [0, 412, 0]) }),
      ]),
      part('truck', 'Truck', 'fastener', 'brass', [
        step('turned', 'flag-truck', 'Truck', {
          edgeRadius: 0.4,
          profile: profileOf(
            [
              [0, 408],
              [7, 408, 1],
              [7, 414, 2],
              [0, 420],
            ],
            [['under'], ['side'], ['cap', 'arc', 1]],
          ),
          rings: [],
          body: 'solid',
        }),
      ]),
    ],
  );
}

/** The pin rail: belaying pins that were each turned by hand, as many as hang there; the fifth is in use elsewhere. */
export function pinRail(): AssetDocument {
  return piece(
    'Pin rail',
    { purpose: 'game', size: [520, 247.6, 60], triangles: 2600, deadline: '2027-02-23' },
    [WOOD, HANDLED_BRASS],
    [
      part('rail', 'Rail', 'body', 'wood', [
        step('box', 'rail-board', 'Board', { width: 520, height: 34, depth: 60, corner: 6, edgeRadius: 3 }),
        step('place', 'rail-up', 'Raised', { y: 106 }),
      ]),
      part('pins', 'Pins', 'body', 'brass', [
        step('turned', 'rail-pin', 'Pin', {
          edgeRadius: 0.6,
          body: 'solid',
          rings: [],
          profile: profileOf(
            [
              [0, 0],
              [8, 2, 2],
              [9, 138],
              [15, 144, 3],
              [13, 190, 12],
              [17, 226, 8],
              [0, 246],
            ],
            [['tip'], ['shaft'], ['collar'], ['waist'], ['grip'], ['head', 'arc', 3]],
          ),
        }),
        step('row', 'rail-row', 'Along the rail', {
          count: 8,
          dx: 60,
          dy: 0,
          dz: 0,
          handSmallest: 0.98,
          handLargest: 1.01,
          leanLeast: 0,
          leanMost: 1.2,
          turnMost: 180,
          handSeed: 5,
          own: [{ id: 'gone', copy: 5, dx: 0, dy: 0, dz: 0, drop: true }],
        }),
        step('place', 'rail-from', 'From the left', { x: -210 }),
      ]),
    ],
  );
}

/** The ration biscuit: a block in film, crimped at both ends with teeth. */
export function rationBiscuit(): AssetDocument {
  return piece(
    'Ration biscuit',
    { purpose: 'product', size: [130, 19.2, 66.7], triangles: 2600, deadline: '2027-02-09' },
    [CREAM],
    [
      part('packet', 'Packet', 'print', 'cream', [
        step('wrap', 'biscuit-wrap', 'Film', {
          length: 130,
          width: 52,
          height: 18.4,
          corner: 4,
          shoulder: 10,
          crimp: 10,
          toothPitch: 3,
          tooth: 1.2,
          teethIn: 'both',
          fin: 9,
          film: 0.2,
          wrinkles: 9,
          wrinkle: 0.5,
        }),
      ]),
    ],
  );
}

/** The day-mark buoy: a turned float under painted panels that alternate, each given its thickness along its own normals. */
export function dayMarkBuoy(): AssetDocument {
  const line = () =>
    profileOf(
      [
        [90, 40],
        [230, 120, 30],
        [230, 200, 40],
        [70, 520],
      ],
      [['bottom'], ['belt'], ['cone']],
    );
  const panels = (id: string, name: string, material: string, keep: 'odd' | 'even') =>
    part(
      id,
      name,
      'body',
      material,
      [
        step('turned', `buoy-${id}`, 'Line of the float', { body: 'open', edgeRadius: 0, profile: line() }),
        step('shell', `buoy-${id}-wall`, 'Panels', { thickness: 4, side: 'out', region: 'others' }),
        step('shade', `buoy-${id}-shade`, 'Shading', { hard: 'creases', weighted: false }),
        step('bevel', `buoy-${id}-edges`, 'Edges', { in: 'high', degrees: 60, sizeIs: 'radius', size: 0.9 }),
      ],
      {
        regions: [
          {
            id: 'others',
            name: 'Panels of the other colour',
            weight: 1,
            rules: [{ id: '1', how: 'add', rule: { kind: 'picked', places: strips(`buoy-${id}`, keep) } }],
          },
        ],
      },
    );
  const document = piece(
    'Day-mark buoy',
    { purpose: 'game', size: [493, 700, 470], triangles: 3400, closestMm: 2500, deadline: '2027-01-19' },
    [RED, WHITE, IRON, HANDLED_BRASS],
    [
      part('float', 'Float', 'body', 'iron', [
        step('turned', 'buoy-float', 'Float', {
          body: 'solid',
          edgeRadius: 2,
          profile: profileOf(
            [
              [0, 0],
              [84, 0, 12],
              [86, 38],
              [226, 119, 30],
              [226, 200, 40],
              [66, 521],
              [66, 540, 4],
              [0, 540],
            ],
            [['foot'], ['skirt'], ['bottom'], ['belt'], ['cone'], ['collar'], ['top']],
          ),
        }),
      ]),
      panels('red', 'Red panels', 'red', 'odd'),
      panels('white', 'White panels', 'white', 'even'),
      part('mast', 'Mast', 'body', 'iron', [
        step('bar', 'buoy-mast', 'Mast', { radius: 9, edgeRadius: 1, path: path([0, 532, 0], [0, 640, 0]) }),
      ]),
      part('ball', 'Top mark', 'body', 'red', [
        step('turned', 'buoy-ball', 'Ball', {
          edgeRadius: 0,
          profile: profileOf(
            [
              [0, 620],
              [40, 660],
              [0, 700],
            ],
            [
              ['under', 'arc', 11.715],
              ['over', 'arc', 11.715],
            ],
          ),
        }),
      ]),
      part('eye', 'Mooring eye', 'body', 'brass', [
        step('bar', 'buoy-eye', 'Eye', {
          radius: 8,
          edgeRadius: 1,
          path: path([-218, 190, 0], [-250, 190, 0, 14], [-250, 150, 0, 14], [-218, 150, 0]),
        }),
      ]),
    ],
    { relations: [between('mast', 'float', 'sunk', 8, 0.6), between('ball', 'mast', 'sunk', 20, 2)] },
  );
  // Panels end where the facets do.
  return { ...document, form: { ...document.form, locks: { 'buoy-red.sides': 2 * PANELS, 'buoy-white.sides': 2 * PANELS } } };
}

/** A sample of sea cable, its layers stripped back one by one and cut to show the section. */
export function seaCable(): AssetDocument {
  const sleeve = (id: string, name: string, material: string, inner: number, outer: number, long: number, lean: number, back: number) =>
    part(
      id,
      name,
      'body',
      material,
      [
        step('turned', `cable-${id}`, name, {
          body: 'solid',
          edgeRadius: 0,
          profile: profileOf(
            [
              [inner, back],
              [outer, back],
              [outer, long + 30],
              [inner, long + 30],
            ],
            [['end'], ['outside'], ['far end']],
          ),
        }),
        step('cut', `cable-${id}-cut`, 'Cut back', { axis: 'y', at: long, leanB: lean, keep: 'below', cap: true, band: 0.4 }),
      ],
      { turnDegrees: [0, 0, -90] },
    );
  return piece(
    'Sea-cable sample',
    { purpose: 'product', size: [240, 40, 40], triangles: 5200, closestMm: 450, deadline: '2027-01-22' },
    [COPPER, RUBBER, JUTE, IRON, HANDLED_BRASS],
    [
      part(
        'conductor',
        'Conductor',
        'body',
        'copper',
        [
          step('turned', 'cable-strand', 'Strand', {
            edgeRadius: 0.2,
            profile: profileOf(
              [
                [1.4, 0],
                [1.4, 240],
              ],
              [['wire']],
            ),
          }),
          step('place', 'cable-strand-place', 'Off the middle', { x: 2.86, y: 0, z: 0, turnX: 0, turnY: 0, turnZ: 0 }),
          step('array', 'cable-strands', 'Six wires', { count: 6, x: 0, z: 0, startDegrees: 0, applied: true }),
          step('twist', 'cable-lay', 'Laid up', { axis: 'y', degrees: 360, reach: 4.2 }),
        ],
        { turnDegrees: [0, 0, -90] },
      ),
      sleeve('core', 'Gutta-percha core', 'rubber', 4.35, 9, 200, 0, 0.3),
      sleeve('bedding', 'Jute bedding', 'jute', 9.05, 12, 160, 12, 0.6),
      part(
        'armour',
        'Armour wires',
        'body',
        'iron',
        [
          step('turned', 'cable-wire', 'Wire', {
            edgeRadius: 0.2,
            profile: profileOf(
              [
                [2, 0.9],
                [2, 128],
              ],
              [['wire']],
            ),
          }),
          step('place', 'cable-wire-place', 'Off the middle', { x: 14.1, y: 0, z: 0, turnX: 0, turnY: 0, turnZ: 0 }),
          step('array', 'cable-wires', 'Twenty round', { count: 20, x: 0, z: 0, startDegrees: 0, applied: true }),
          step('twist', 'cable-armour-lay', 'Laid up', { axis: 'y', degrees: -70, reach: 16 }),
        ],
        { turnDegrees: [0, 0, -90] },
      ),
      sleeve('serving', 'Outer serving', 'jute', 16.3, 19, 92, 18, 1.2),
      part(
        'ferrule',
        'Ferrule',
        'fastener',
        'brass',
        [
          step('turned', 'cable-ferrule', 'Ferrule', {
            body: 'wall',
            wall: 0.9,
            edgeRadius: 0.3,
            profile: profileOf(
              [
                [19.05, 2],
                [19.05, 26],
                [20, 27],
                [20, 30],
              ].slice(0, 2) as [number, number][],
              [['band']],
            ),
            drawnIs: 'inside',
          }),
        ],
        { turnDegrees: [0, 0, -90] },
      ),
    ],
  );
}

/** The foghorn: a turned and belled trumpet, bent at its throat, on a flanged foot with bolts. */
export function foghorn(): AssetDocument {
  return piece(
    'Foghorn',
    { purpose: 'game', size: [506, 547, 344], triangles: 3600, closestMm: 2200, deadline: '2027-01-26' },
    [RED, HANDLED_BRASS, IRON, GREEN],
    [
      part('horn', 'Horn', 'body', 'red', [
        step('turned', 'horn-trumpet', 'Trumpet', {
          body: 'wall',
          wall: 3.5,
          drawnIs: 'outside',
          edgeRadius: 0.8,
          profile: profileOf(
            [
              [34, 24],
              [36, 200],
              [58, 420],
              [94, 560],
              [165, 640],
            ],
            [['pipe'], ['throat'], ['flare', 'arc', -5], ['bell', 'arc', -12]],
          ),
        }),
        step('bend', 'horn-bend', 'Bent', { axis: 'y', towards: 'x', degrees: 78, from: 150, to: 400, neutral: 0, reach: 50 }),
      ]),
      part('rim', 'Rolled rim', 'body', 'brass', [
        step('turned', 'horn-rim', 'Rim', {
          body: 'wall',
          wall: 7,
          drawnIs: 'inside',
          edgeRadius: 2,
          profile: profileOf(
            [
              [160, 633],
              [164, 645],
            ],
            [['roll']],
          ),
        }),
        step('bend', 'horn-rim-bend', 'Bent along', { axis: 'y', towards: 'x', degrees: 78, from: 150, to: 400, neutral: 0, reach: 50 }),
      ]),
      part('foot', 'Foot', 'body', 'iron', [
        step('turned', 'horn-foot', 'Foot', {
          edgeRadius: 1.5,
          profile: profileOf(
            [
              [0, 0],
              [86, 0],
              [86, 16, 3],
              [50, 20, 8],
              [44, 60, 3],
              [32.4, 60],
              [32.4, 12],
              [0, 12],
            ],
            [['under'], ['edge'], ['top'], ['boss'], ['lip'], ['bore'], ['bottom of the bore']],
          ),
        }),
      ]),
      part(
        'bolts',
        'Bolts',
        'fastener',
        'brass',
        [
          step('prism', 'horn-bolt', 'Bolt', { sides: 6, acrossFlats: 16, height: 8, edgeRadius: 0 }),
          step('bevel', 'horn-bolt-edges', 'Chamfer', { where: 'border', region: 'bolt-top', size: 1.6 }),
          step('shade', 'horn-bolt-shade', 'Shading', { hard: 'add', degrees: 30, weighted: true }),
          step('place', 'horn-bolt-place', 'On the foot', { x: 68, y: 16.5, z: 0, turnX: 0, turnY: 0, turnZ: 0 }),
          step('array', 'horn-bolts', 'Six', { count: 6, x: 0, z: 0, startDegrees: 0 }),
        ],
        { regions: [facing('bolt-top', 'Top', [0, 1, 0])] },
      ),
      part('stay', 'Stay', 'body', 'green', [
        step('bar', 'horn-stay', 'Stay', { radius: 7, edgeRadius: 1, path: path([52, 14, 0], [140, 120, 0, 60], [190, 340, 0]) }),
      ]),
    ],
  );
}
