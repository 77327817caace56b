import { briefFor } from '../src/brief/brief';
import type { Step } from '../src/form/steps/index';
import { encodeParts } from '../src/pipeline/bundle';
import { type AssetDocument, newDocument } from '../src/pipeline/document';
import { formAsset } from '../src/pipeline/form';
import { cardOf, inspectAsset, ledgerOf } from '../src/pipeline/inspect';
import { MeshCache } from '../src/pipeline/mesh-cache';
import { trianglesAtTolerance } from '../src/pipeline/solve';
import { QUIET } from '../src/task';
import { stepOf } from '../test/recipes';
import { median } from './calibrate';

/** Twenty steps of every kind in four parts, some 50 000 triangles. */
function twentySteps(): AssetDocument {
  const kinds = ['turned', 'box', 'bar', 'panel', 'prism'] as const;
  const parts = Array.from({ length: 4 }, (_, p) => ({
    id: `part${p}`,
    name: `Part ${p}`,
    role: 'body' as const,
    material: null,
    move: [p * 200, 0, 0] as [number, number, number],
    turnDegrees: [0, 0, 0] as [number, number, number],
    weight: 1,
    declaredOpen: false,
    shape: { kind: 'recipe' as const, steps: kinds.map((k, i): Step => ({ ...stepOf(k), id: `${k}${p}`, name: `${k} ${i}` })) },
  }));
  const document = newDocument('Twenty steps', briefFor('game'));
  // Counts that bring it to some 50 000: the turned parts and bars take most of them.
  const locks: Record<string, number> = {};
  for (let p = 0; p < 4; p++)
    Object.assign(locks, { [`turned${p}.sides`]: 760, [`bar${p}.section`]: 96, [`bar${p}.bend.b`]: 38, [`box${p}.corners`]: 120 });
  return { ...document, parts, form: { ...document.form, locks } };
}

const none = () => {
  throw new Error('recipes need no stored mesh');
};

/** Times what the worker does after one dimension was changed. */
export function benchRecipe(): { triangles: number; formed: number; whole: number; fresh: number; parts: Record<string, number> } {
  const base = twentySteps();
  const memory = new MeshCache();
  const edited = (i: number): AssetDocument => ({
    ...base,
    parts: base.parts.map((p, k) =>
      k === i % 4 && p.shape.kind === 'recipe'
        ? {
            ...p,
            shape: {
              ...p.shape,
              steps: p.shape.steps.map((s) =>
                s.kind === 'box' ? { ...s, width: 80 + i } : s.kind === 'bar' ? { ...s, radius: 2 + i / 100 } : s,
              ),
            },
          }
        : p,
    ),
  });
  const clock = () => performance.now() / 1000;
  const start = clock();
  const first = formAsset(base, 'low', none, memory);
  const fresh = clock() - start;
  const runs: Record<string, number[]> = { formed: [], ledger: [], findings: [], bundle: [], card: [], needed: [], whole: [] };
  for (let i = 1; i <= 9; i++) {
    const document = edited(i);
    const t0 = clock();
    let t = t0;
    const lap = (what: string) => {
      runs[what].push(clock() - t);
      t = clock();
    };
    const formed = formAsset(document, 'low', none, memory);
    lap('formed');
    const ledger = ledgerOf(formed.parts, memory);
    lap('ledger');
    inspectAsset(document, formed, ledger, QUIET, memory);
    lap('findings');
    encodeParts(formed.parts);
    lap('bundle');
    for (const p of formed.parts) cardOf(p.mesh, memory);
    lap('card');
    trianglesAtTolerance(document, 0.1);
    lap('needed');
    runs.whole.push(clock() - t0);
  }
  return {
    triangles: ledgerOf(first.parts).triangles,
    fresh,
    formed: median(runs.formed),
    whole: median(runs.whole),
    parts: Object.fromEntries(Object.entries(runs).map(([k, v]) => [k, median(v)])),
  };
}
