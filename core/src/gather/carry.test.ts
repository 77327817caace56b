import { describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { stepOf } from '../../test/recipes';
import { painted, pane } from '../../test/textured';
import { decodePng } from '../image/png';
import { attribute, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import { FORM_DEFAULTS } from '../pipeline/document';
import { formAsset } from '../pipeline/form';
import { unwrap, unwrapSettings } from '../pipeline/unwrap';
import { acrossFrom } from './across';
import { carry } from './carry';

/** A turned part with so many sides, and its layout. */
function turnedWith(sides: number): PolyMesh {
  const document = asset([part('p', [stepOf('turned')])], { form: { ...FORM_DEFAULTS, counts: { 'turned1.sides': sides } } });
  return unwrap(formAsset(document, 'low', none).parts, { ...unwrapSettings(document), size: 256 }).parts[0].mesh;
}

describe('what was painted, carried over', () => {
  it('to other counts of the same steps it is found by patch and coordinates: nothing is lost', () => {
    const [coarse, fine] = [turnedWith(12), turnedWith(40)];
    expect(triangleCount(fine)).toBeGreaterThan(triangleCount(coarse));
    expect(acrossFrom(coarse, fine).kind).toBe('patches');
    // Painted by where it is on the surface, so that it can be known again on any layout: height in red.
    const size = 256;
    const picture = byHeight(coarse, size);
    const made = carry(picture, coarse, fine, size);
    expect(made.lostShare).toBeLessThan(0.001);
    const wanted = byHeight(fine, size);
    const off: number[] = [];
    for (let i = 0; i < size * size; i++) if (made.state[i] === 1) off.push(Math.abs(made.pixels.data[4 * i] - wanted.data[4 * i]));
    off.sort((a, b) => a - b);
    expect(off.length).toBeGreaterThan(1000);
    expect(off[Math.floor(0.9 * off.length)]).toBeLessThan(6);
  });
  it('onto itself nothing is smeared; half a texel aside by half a texel', () => {
    const mesh = pane(100, 100);
    const size = 64;
    const picture = decodePng(painted(size, 4, (x) => (x < 0.5 ? [0, 0, 0, 1] : [1, 1, 1, 1])));
    const same = carry(picture, mesh, mesh, size);
    expect(same.blurPx).toBe(0);
    expect([...same.pixels.data.slice(4 * 31, 4 * 33)]).toEqual([0, 0, 0, 255, 255, 255, 255, 255]);
    const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
    const aside = withAttribute(mesh, {
      name: 'uv',
      domain: 'corner',
      size: 2,
      data: uv.map((u, i) => (i % 2 === 0 ? u + 0.5 / size : u)),
    });
    const moved = carry(picture, mesh, aside, size);
    // A texel between black and white holds half the light: 188 of 255.
    expect(Math.abs(moved.pixels.data[4 * (32 * size + 32)] - 188)).toBeLessThanOrEqual(1);
    expect(moved.blurPx).toBeCloseTo(Math.sqrt(1 / 6), 2);
    // Twice as coarse, two texels wide.
    expect(carry(picture, mesh, mesh, size / 2).blurPx).toBeCloseTo(Math.sqrt(1 / 6 + 4 / 12), 1);
  });
});

/** A picture on a mesh’s layout that says how high each place is: 0 … 1 from its foot to its top, in light. */
function byHeight(mesh: PolyMesh, size: number) {
  const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
  const ys = mesh.positions.filter((_, i) => i % 3 === 1);
  const [low, high] = [Math.min(...ys), Math.max(...ys)];
  const data = new Uint8Array(4 * size * size);
  for (let t = 0; t < triangleCount(mesh); t++) {
    const c = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const [[ax, ay], [bx, by], [cx, cy]] = c.map((k) => [uv[2 * k] * size, (1 - uv[2 * k + 1]) * size]);
    const d = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const h = c.map((k) => (mesh.positions[3 * mesh.faceVert[k] + 1] - low) / (high - low));
    // A texel beyond the rim too, for reading between texels there.
    for (let y = Math.max(0, Math.floor(Math.min(ay, by, cy)) - 1); y <= Math.min(size - 1, Math.max(ay, by, cy) + 1); y++)
      for (let x = Math.max(0, Math.floor(Math.min(ax, bx, cx)) - 1); x <= Math.min(size - 1, Math.max(ax, bx, cx) + 1); x++) {
        const [px, py] = [x + 0.5, y + 0.5];
        const q = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / d;
        const r = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / d;
        const inside = q >= 0 && r >= 0 && q + r <= 1;
        if (!inside && data[4 * (y * size + x) + 3] > 0) continue;
        if (Math.min(q, r, 1 - q - r) < -0.2) continue;
        const v = Math.min(1, Math.max(0, h[0] + q * (h[1] - h[0]) + r * (h[2] - h[0])));
        data.set([Math.round(255 * v), 0, 0, 255], 4 * (y * size + x));
      }
  }
  return { width: size, height: size, channels: 4 as const, depth: 8 as const, data };
}
