import { describe, expect, it } from 'vitest';
import type { SourcePicture } from '../../gather/picture';
import { linearToSrgb, srgbToLinear } from '../../image/srgb';
import { IDENTITY, scaling } from '../../maths/mat4';
import type { Vec3 } from '../../maths/vec3';
import { makeMesh, type PolyMesh } from '../../mesh/polymesh';
import { cameraFrom, inCamera, type PhotoCamera, seenFrom } from '../camera';
import { type Px, turned } from '../match';
import { ACROSS, pixelsOf } from './job';
import { matchExposures, setPlain, standing } from './places';
import { type PhotoSeen, prepareProjection } from './prepare';
import { projectAll, texelOf } from './projector';
import { whereToStand } from './stand';

const SIZE = { width: 800, height: 600 };
/** A camera that looks at a place from round it, upright. */
function lookingAt(centre: Vec3, azimuth: number, elevation: number, far: number, focalPx = 900): PhotoCamera {
  const bare: [Vec3, Vec3, Vec3] = [
    [1, 0, 0],
    [0, -1, 0],
    [0, 0, -1],
  ];
  const axes = bare.map((v) => turned(turned(v, [0, azimuth, 0]), [elevation, 0, 0])) as [Vec3, Vec3, Vec3];
  return cameraFrom({ focalPx, middle: [SIZE.width / 2, SIZE.height / 2], bending: 0, axes }, [0, 0, far], centre, SIZE);
}

/** A box of six faces, each with a square of its own in the layout; and the same with every face divided n × n. */
function box([w, h, d]: Vec3, n = 1): PolyMesh {
  const faces: [Vec3, Vec3, Vec3][] = [
    // Corner, along u, along v.
    [
      [0, 0, d],
      [w, 0, 0],
      [0, h, 0],
    ],
    [
      [w, 0, 0],
      [-w, 0, 0],
      [0, h, 0],
    ],
    [
      [w, 0, d],
      [0, 0, -d],
      [0, h, 0],
    ],
    [
      [0, 0, 0],
      [0, 0, d],
      [0, h, 0],
    ],
    [
      [0, h, d],
      [w, 0, 0],
      [0, 0, -d],
    ],
    [
      [0, 0, 0],
      [w, 0, 0],
      [0, 0, d],
    ],
  ];
  const positions: number[] = [];
  const faceVert: number[] = [];
  const uv: number[] = [];
  for (const [f, [o, u, v]] of faces.entries())
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++)
        for (const [a, b] of [
          [i, j],
          [i + 1, j],
          [i + 1, j + 1],
          [i, j + 1],
        ]) {
          faceVert.push(positions.length / 3);
          positions.push(...[0, 1, 2].map((k) => o[k] + (u[k] * a) / n + (v[k] * b) / n));
          uv.push((f % 3) / 3 + 0.02 + (0.28 * a) / n, Math.floor(f / 3) / 2 + 0.02 + (0.4 * b) / n);
        }
  const mesh = makeMesh({ positions, faceStart: Array.from({ length: faceVert.length / 4 + 1 }, (_, i) => 4 * i), faceVert });
  return { ...mesh, attributes: [...mesh.attributes, { name: 'uv', domain: 'corner', size: 2, data: Float32Array.from(uv) }] };
}

/** A photograph in which colour is where it lies: red to the right, green down; smooth, so that reading between pixels is exact. */
function slope(gain = 1): SourcePicture {
  const data = new Uint8Array(3 * SIZE.width * SIZE.height);
  for (let y = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++)
      data.set(
        [0.1 + (0.6 * (x + 0.5)) / SIZE.width, 0.1 + (0.6 * (y + 0.5)) / SIZE.height, 0.3].map((v) =>
          Math.round(255 * linearToSrgb(gain * v)),
        ),
        3 * (y * SIZE.width + x),
      );
  return { ...SIZE, channels: 3, data };
}
const BOX: Vec3 = [300, 400, 120];
const CENTRE: Vec3 = [150, 200, 60];
const photo = (camera: PhotoCamera, picture = slope(), id = 'p'): PhotoSeen => ({ id, camera, picture });
const part = (mesh: PolyMesh, id = 'box') => ({ id, mesh, placements: [IDENTITY] });

describe('a photograph laid on a box', () => {
  const camera = lookingAt(CENTRE, 0.6, 0.35, 900);
  it('lies where the camera sees it, to what 8 bits can say, on faces that are one face each', () => {
    const { job } = prepareProjection({ size: 512, parts: [part(box(BOX))], others: [], photos: [photo(camera)], across: null });
    const { projected } = projectAll(job);
    let checked = 0;
    for (const [t, own] of [...job.parts[0].area.keys()].map((t) => [t, job.parts[0]] as const))
      for (const at of [
        [0.2, 0.5, 0.3],
        [0.6, 0.2, 0.2],
        [1 / 3, 1 / 3, 1 / 3],
      ] as const) {
        const [x, y, z, nx, ny, nz] = standing(job, { part: 0, triangle: t, at });
        const [u, v] = [0, 1].map((k) => at[0] * own.uv[6 * t + k] + at[1] * own.uv[6 * t + 2 + k] + at[2] * own.uv[6 * t + 4 + k]);
        const [tx, ty] = [Math.floor(u * 512), Math.floor((1 - v) * 512)];
        const i = ty * 512 + tx;
        const faces = nx * (camera.position[0] - x) + ny * (camera.position[1] - y) + nz * (camera.position[2] - z) > 0;
        expect(projected.by[i] > 0).toBe(faces);
        if (!faces) continue;
        checked++;
        // The middle of that texel, as the pinhole formula has it.
        const p = seenFrom(camera, [x, y, z]) as readonly [number, number];
        const texelPx = pixelsOf(projected.pixels[i]);
        const red = srgbToLinear(projected.colour[3 * i] / 255);
        const green = srgbToLinear(projected.colour[3 * i + 1] / 255);
        expect(Math.abs(((red - 0.1) / 0.6) * SIZE.width - p[0])).toBeLessThan(1.5 * texelPx + 4);
        expect(Math.abs(((green - 0.1) / 0.6) * SIZE.height - p[1])).toBeLessThan(1.5 * texelPx + 4);
      }
    expect(checked).toBe(18);
  });
  it('is the same as on the box divided 24 × 24: perspective is followed inside a face', () => {
    const [one, many] = [1, 24].map((n) => {
      const { job } = prepareProjection({ size: 512, parts: [part(box(BOX, n))], others: [], photos: [photo(camera)], across: null });
      return projectAll(job).projected;
    });
    let [worst, differ, seen] = [0, 0, 0];
    for (let i = 0; i < one.by.length; i++) {
      if (one.state[i] !== 1 || many.state[i] !== 1) continue;
      if (one.by[i] !== many.by[i]) differ++;
      if (one.by[i] === 0 || many.by[i] === 0) continue;
      seen++;
      for (let k = 0; k < 3; k++) worst = Math.max(worst, Math.abs(one.colour[3 * i + k] - many.colour[3 * i + k]));
    }
    expect(seen).toBeGreaterThan(60_000);
    expect(worst).toBeLessThanOrEqual(1);
    expect(differ / seen).toBeLessThan(1e-3);
  });
  it('pixels along a texel and degrees are those of the formula', () => {
    const { job } = prepareProjection({ size: 256, parts: [part(box(BOX))], others: [], photos: [photo(camera)], across: null });
    const { projected } = projectAll(job);
    const at = [1 / 3, 1 / 3, 1 / 3] as const;
    const [x, y, z] = standing(job, { part: 0, triangle: 0, at });
    const step = texelOf(job.parts[0], 0, 256);
    // Straight ahead at z: a step to the side and one up, as they appear.
    const [p, q, r] = [
      [0, 0],
      [step, 0],
      [0, step],
    ].map(([dx, dy]) => seenFrom(camera, [x + dx, y + dy, z]) as readonly [number, number]);
    const px = Math.sqrt(Math.abs((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])));
    const { uv } = job.parts[0];
    const [u, v] = [0, 1].map((k) => (uv[k] + uv[2 + k] + uv[4 + k]) / 3);
    const i = Math.floor((1 - v) * 256) * 256 + Math.floor(u * 256);
    expect(pixelsOf(projected.pixels[i]) / px).toBeGreaterThan(0.97);
    expect(pixelsOf(projected.pixels[i]) / px).toBeLessThan(1.03);
    const to = camera.position.map((c, k) => c - [x, y, z][k]);
    expect(Math.abs(projected.degrees[i] - (Math.acos(to[2] / Math.hypot(...to)) * 180) / Math.PI)).toBeLessThan(1.2);
  });
  it('nothing is laid on what stands behind something else', () => {
    const wall = makeMesh({
      positions: [60, -50, 400, 240, -50, 400, 240, 500, 400, 60, 500, 400],
      faceStart: [0, 4],
      faceVert: [0, 1, 2, 3],
    });
    const straight = lookingAt(CENTRE, 0, 0, 1500);
    const { job, places } = prepareProjection({
      size: 256,
      parts: [part(box(BOX))],
      others: [part(wall, 'wall')],
      photos: [photo(straight)],
      across: null,
    });
    const { projected } = projectAll(job);
    const front = places.filter((p) => job.parts[0].facing[3 * p.triangle + 2] > 0.9);
    for (const p of front) {
      const [x, y, z] = standing(job, p);
      // Through the camera onto the plane of the wall.
      const s = (400 - z) / (straight.position[2] - z);
      const [wx, wy] = [x + s * (straight.position[0] - x), y + s * (straight.position[1] - y)];
      expect(p.seen === 0).toBe(wx > 60 && wx < 240 && wy > -50 && wy < 500);
    }
    expect(front.filter((p) => p.seen === 0).length / front.length).toBeGreaterThan(0.4);
    expect(projected.by.filter((b) => b > 0).length).toBeGreaterThan(0);
  });
  it('what is unseen is taken from across, or left in the mean colour of what is seen', () => {
    const make = (across: 0 | null) => {
      const { job, places } = prepareProjection({ size: 256, parts: [part(box(BOX))], others: [], photos: [photo(camera)], across });
      setPlain(job, places);
      return { job, projected: projectAll(job).projected };
    };
    const { job, projected } = make(0);
    const at = (x: number, y: number, z: number, o: ReturnType<typeof make>) => {
      for (let t = 0; t < o.job.parts[0].area.length; t++) {
        const [cx, cy, cz] = standing(o.job, { part: 0, triangle: t, at: [1 / 3, 1 / 3, 1 / 3] });
        if (Math.hypot(cx - x, cy - y, cz - z) > 1e-3) continue;
        const uv = o.job.parts[0].uv;
        const [u, v] = [0, 1].map((k) => (uv[6 * t + k] + uv[6 * t + 2 + k] + uv[6 * t + 4 + k]) / 3);
        return Math.floor((1 - v) * 256) * 256 + Math.floor(u * 256);
      }
      throw new Error('no such place');
    };
    // The camera stands to the right: the left face isn’t seen, and is the right one’s mirror image.
    expect(camera.position[0]).toBeGreaterThan(BOX[0]);
    const [x, y, z] = standing(job, { part: 0, triangle: 6, at: [1 / 3, 1 / 3, 1 / 3] });
    expect(x).toBe(0);
    const unseen = at(x, y, z, { job, projected });
    expect(projected.by[unseen]).toBe(ACROSS);
    const p = seenFrom(camera, [BOX[0] - x, y, z]) as readonly [number, number];
    expect((srgbToLinear(projected.colour[3 * unseen] / 255) - 0.1) / 0.6).toBeCloseTo(p[0] / SIZE.width, 1);
    const left = make(null);
    expect(left.projected.by[unseen]).toBe(0);
    for (let k = 0; k < 3; k++)
      expect(Math.abs(left.projected.colour[3 * unseen + k] - 255 * linearToSrgb(left.job.parts[0].plain[k]))).toBeLessThan(1);
  });
  it('what was cut out of a photograph shows nothing', () => {
    const whole = slope();
    const data = new Uint8Array(4 * SIZE.width * SIZE.height);
    for (let i = 0; i < SIZE.width * SIZE.height; i++) {
      data.set(whole.data.subarray(3 * i, 3 * i + 3), 4 * i);
      // Left of the middle there is nothing.
      data[4 * i + 3] = i % SIZE.width < SIZE.width / 2 ? 0 : 255;
    }
    const { job, places } = prepareProjection({
      size: 128,
      parts: [part(box(BOX))],
      others: [],
      photos: [photo(camera, { ...SIZE, channels: 4, data })],
      across: null,
    });
    const seen = places
      .filter((p) => p.seen !== 0)
      .map((p) => (seenFrom(camera, standing(job, p).slice(0, 3) as unknown as Vec3) as Px)[0]);
    expect(seen.length).toBeGreaterThan(1000);
    expect(Math.min(...seen)).toBeGreaterThanOrEqual(SIZE.width / 2);
  });
  it('a copy that stands mirrored gets what is seen of it there', () => {
    const mirrored = { id: 'box', mesh: box(BOX), placements: [scaling([-1, 1, 1])] };
    const other = lookingAt([-150, 200, 60], -0.6, 0.35, 900);
    const [plain, turnedRound] = [
      prepareProjection({ size: 256, parts: [part(box(BOX))], others: [], photos: [photo(camera)], across: null }),
      prepareProjection({ size: 256, parts: [mirrored], others: [], photos: [photo(other)], across: null }),
    ].map(({ job }) => projectAll(job).projected);
    let worst = 0;
    for (let i = 0; i < plain.by.length; i++) {
      if (plain.by[i] === 0 || turnedRound.by[i] === 0 || plain.state[i] !== 1) continue;
      // Left and right of the picture are exchanged: red runs the other way, green the same.
      worst = Math.max(worst, Math.abs(plain.colour[3 * i + 1] - turnedRound.colour[3 * i + 1]));
    }
    expect(worst).toBeLessThanOrEqual(1);
    expect(turnedRound.by.filter((b) => b > 0).length).toBeGreaterThan(0.95 * plain.by.filter((b) => b > 0).length);
  });
});

describe('several photographs', () => {
  // The same light in both, one exposed a stop less: it has to come out a stop brighter, and the seam has to go.
  it('gain is found and the seam it leaves is measured', () => {
    const [a, b] = [lookingAt(CENTRE, 0.5, 0.3, 900), lookingAt(CENTRE, -0.5, 0.3, 900)];
    const grey = (gain: number): SourcePicture => {
      const data = new Uint8Array(3 * SIZE.width * SIZE.height).fill(Math.round(255 * linearToSrgb(0.4 * gain)));
      return { ...SIZE, channels: 3, data };
    };
    const { job, places } = prepareProjection({
      size: 256,
      parts: [part(box(BOX))],
      others: [],
      photos: [photo(a, grey(1)), photo(b, grey(0.5), 'q')],
      across: null,
    });
    const overlap = matchExposures(job, places);
    expect(job.photos[0].gain).toBeCloseTo(1, 6);
    // 8-bit rounding of the greys is all there is.
    expect(Math.abs(job.photos[1].gain / 2 - 1)).toBeLessThan(0.01);
    expect(overlap?.before).toBeGreaterThan(40);
    expect(overlap?.after).toBeLessThan(1);
    const { projected } = projectAll(job);
    const seen = [...projected.by.keys()].filter((i) => projected.by[i] > 0 && projected.state[i] === 1);
    const values = seen.map((i) => projected.colour[3 * i]);
    expect(Math.max(...values) - Math.min(...values)).toBeLessThanOrEqual(1);
    expect(new Set(seen.map((i) => projected.by[i])).size).toBe(2);
  });
  it('where to stand next is where the blind faces are', () => {
    const one = lookingAt(CENTRE, 0, 0.1, 900);
    const { job, places } = prepareProjection({ size: 128, parts: [part(box(BOX))], others: [], photos: [photo(one)], across: null });
    const stand = whereToStand(job, places);
    // Of the front nothing is left: the back, from above, with the larger of two sides; underneath nobody on the ground can see.
    expect(Math.abs(((stand?.azimuth ?? 0) % 360) - 180)).toBeLessThan(75);
    expect(stand?.share).toBeGreaterThan(0.5);
    const under = (300 * 120) / (2 * (300 * 400 + 400 * 120 + 300 * 120));
    expect(stand?.never).toBeCloseTo(under, 1);
    expect(stand?.distanceMm).toBeCloseTo(900, 0);
    expect(inCamera(one, CENTRE)[2]).toBeCloseTo(900, 6);
  });
});
