import { describe, expect, it } from 'vitest';
import { cube, refined, sheet, torusMesh } from '../../test/shapes';
import { IDENTITY, translation } from '../maths/mat4';
import { markHard } from '../mesh/normals';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { VIEWS, type ViewKind, viewOf } from './views';

const viewed = (mesh: PolyMesh, id = 'p', placements = [IDENTITY]) => ({ id, mesh, placements, blocks: true });
const values = (mesh: PolyMesh, kind: ViewKind, px = 0.2) => [...(viewOf(kind, [viewed(mesh)], px).parts[0].values as Float32Array)];

describe('views', () => {
  it.each(Object.keys(VIEWS) as ViewKind[])('%s says something of every part, in a sentence, over a scale that goes up', (kind) => {
    const view = viewOf(kind, [viewed(cube(20)), viewed(torusMesh(30, 8, 20, 12), 'q', [translation([90, 0, 0])])], 0.2);
    expect(view.parts.map((p) => p.id)).toEqual(['p', 'q']);
    expect(view.words).toMatch(/\.$/);
    expect(view.high).toBeGreaterThan(view.low);
    for (const p of view.parts) {
      if (p.values) expect(p.values.length % 3).toBe(0);
      if (p.lines) expect(p.lines.length).toBe(6 * (p.lineValues?.length ?? -1));
      if (p.points) expect(p.points.length).toBe(3 * (p.pointValues?.length ?? -1));
    }
  });
  it('curvature is that of the ring, and nothing at hard edges', () => {
    const ring = values(torusMesh(60, 10, 80, 60), 'curvature');
    // The tube's own curvature is the stronger one everywhere.
    for (const v of ring) expect(v).toBeCloseTo(0.1, 2);
    expect(values(markHard(cube(10), 30), 'curvature').every(Number.isNaN)).toBe(true);
  });
  it('thickness is the wall’s', () => {
    const wall = values(shell(refined(cube(60), 8), { thickness: 3 }).mesh, 'thickness');
    expect(wall.filter((v) => Math.abs(v - 3) < 1e-3).length / wall.length).toBeGreaterThan(0.75);
  });
  it('chord error is the sagitta in pixels of the closest view', () => {
    const [r, m] = [10, 24];
    const worst = Math.max(...values(torusMesh(60, r, 96, m), 'chord', 0.1));
    expect(worst).toBeCloseTo(Math.max(70 * (1 - Math.cos(Math.PI / 96)), r * (1 - Math.cos(Math.PI / m))) / 0.1, 1);
    expect(Math.max(...values(cube(10), 'chord'))).toBe(0);
  });
  it('seen: all of a body that stands alone, half the sky over a plane in front of a wall', () => {
    expect(Math.min(...values(cube(10), 'seen'))).toBe(1);
    const inner = viewOf('seen', [viewed(cube(10), 'in', [translation([0, 10, 0])]), viewed(cube(40), 'out')], 1);
    expect(Math.max(...(inner.parts[0].values as Float32Array))).toBe(0);
    expect(inner.words).toContain('12 of 24');
  });
  it('reflection lines break where a flat runs into a round, and not on an even ring', () => {
    // Flat, then a round of radius 6, then straight up: the curvature jumps from none to a sixth and back.
    const bent = sheet(40, 40, (x) => (x <= 0 ? 0 : x < 5 ? 6 - Math.sqrt(36 - x * x) : 6 - Math.sqrt(11) + ((x - 5) * 5) / Math.sqrt(11)));
    expect(viewOf('reflection', [viewed(torusMesh(60, 10, 80, 60))], 1).parts[0].lineValues).toHaveLength(0);
    const jumps = viewOf('reflection', [viewed(bent)], 1).parts[0];
    const xs = new Set([...(jumps.lines as Float32Array)].filter((_, i) => i % 3 === 0).map((x) => Math.round(x)));
    expect(jumps.lineValues?.length).toBeGreaterThan(0);
    for (const x of xs) expect(Math.min(Math.abs(x), Math.abs(x - 5))).toBeLessThanOrEqual(1);
  });
  it('edge flow: loops of a ring run on in one tone, poles are where a cube’s corners are', () => {
    const ring = viewOf('flow', [viewed(torusMesh(60, 10, 16, 8))], 1).parts[0];
    expect(ring.pointValues).toHaveLength(0);
    const box = viewOf('flow', [viewed(refined(cube(30), 3))], 1).parts[0];
    expect(box.pointValues).toHaveLength(8);
    expect([...(box.pointValues as Float32Array)].every((v) => v === 3)).toBe(true);
    // The three vertices that follow the same meridian share a tone.
    const tones = new Map<string, number>();
    for (let i = 0; i < (ring.lineValues?.length ?? 0); i++) {
      const y = (k: number) => (ring.lines as Float32Array)[6 * i + k];
      if (Math.abs(y(1) - y(4)) > 1e-9 || Math.abs(y(1) - 10 * Math.sin(Math.PI / 4)) > 1e-4) continue;
      const side = Math.hypot(y(0), y(2)) > 60 ? 'out' : 'in';
      expect(tones.get(side) ?? ring.lineValues?.[i]).toBe(ring.lineValues?.[i]);
      tones.set(side, ring.lineValues?.[i] as number);
    }
    expect(tones.size).toBe(2);
    expect(triangleCount(torusMesh(60, 10, 16, 8))).toBe(256);
  });
});
