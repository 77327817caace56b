import { FormError } from '../../errors';
import { bevel as bevelled, innerAngle } from '../../mesh/bevel/bevel';
import { type Edges, edgesOf, edgeValence, twin } from '../../mesh/connectivity';
import { faceNormals } from '../../mesh/normals';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { inscribedCount } from '../budget/chord';
import { pickedEdges, regionField } from '../changers';
import { angle, choice, edgesPicked, size, whole } from '../fields';
import type { PickedLine } from '../places';
import { ownPatch, type StepBase, type StepKind, type Surroundings } from '../step';

/** Rounds or chamfers edges of everything above it. Lengths in mm. */
export interface BevelStep extends StepBase {
  kind: 'bevel';
  where: 'angle' | 'picked' | 'region' | 'border';
  /** Edges that turn by more than this, degrees. */
  degrees: number;
  edges?: PickedLine[];
  region?: string;
  sizeIs: 'width' | 'radius';
  size: number;
  /** In the low mesh; the high one has what its tolerance asks for. */
  segments: number;
  shape: 'arc' | 'straight';
}

/** 1 for every edge the step means, and patches of picked ones that are gone. */
function chosenEdges(step: BevelStep, mesh: PolyMesh, edges: Edges, around: Surroundings): Uint8Array {
  const out = new Uint8Array(edges.count);
  if (step.where === 'picked') return pickedEdges(step, mesh, edges);
  const inside = step.where === 'angle' ? null : step.region ? around.own(step.region, mesh) : null;
  if (step.where !== 'angle' && !inside) throw new FormError('bevel/region', `“${step.name}” needs a region.`);
  const normals = faceNormals(mesh);
  const limit = (step.degrees * Math.PI) / 180;
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const c = edges.corners[edges.start[e]];
    const t = twin(edges, c);
    const [f, g] = [edges.faceOf[c], edges.faceOf[t]];
    if (step.where === 'border') {
      if (inside && inside[f] !== inside[g]) out[e] = 1;
      continue;
    }
    if (inside && (!inside[f] || !inside[g])) continue;
    if (Math.abs(Math.PI - innerAngle(mesh, edges, normals, e)) > limit) out[e] = 1;
  }
  return out;
}

const byAngle = (s: Record<string, unknown>) => s.where === 'angle' || s.where === 'region';
export const bevel = {
  kind: 'bevel',
  name: 'bevel',
  about: 'Rounds or chamfers edges: sharp ones, picked ones, those of a region or round it. The widest that fits is shown, and kept to.',
  fields: [
    choice('where', 'Edges', [
      ['angle', 'sharper than an angle'],
      ['picked', 'picked'],
      ['region', 'sharp ones of a region'],
      ['border', 'round a region'],
    ]),
    angle('degrees', 'Turning by more than', { min: 1, max: 179, when: byAngle }),
    edgesPicked('edges', 'Picked', { optional: true, when: (s) => s.where === 'picked' }),
    regionField('Region', { none: 'choose a region', when: (s) => s.where === 'region' || s.where === 'border' }),
    choice('sizeIs', 'Given as', [
      ['width', 'width on each face'],
      ['radius', 'radius'],
    ]),
    size('size', 'Size'),
    whole('segments', 'Segments', 1, 8, { hint: 'low mesh' }),
    choice('shape', 'Profile', [
      ['arc', 'arc'],
      ['straight', 'straight'],
    ]),
  ],
  fresh: () => ({
    name: 'Bevel',
    where: 'angle' as const,
    degrees: 30,
    sizeIs: 'width' as const,
    size: 1,
    segments: 1,
    shape: 'arc' as const,
  }),
  words: (s: BevelStep, length) =>
    `${s.shape === 'arc' ? 'rounded' : 'chamfered'} ${length(s.size, 2)}${s.segments > 1 ? ` in ${s.segments}` : ''}`,
  patchName: (_: BevelStep, patch: string) => patch.replace(/[^ ]+\//g, ''),
  changer: {
    change(step: BevelStep, mesh, detail, around) {
      const edges = edgesOf(mesh);
      const fine = detail.mesh === 'high' && step.shape === 'arc' ? inscribedCount(step.size, detail.toleranceMm, Math.PI / 2, 1) : 1;
      const made = bevelled(
        mesh,
        chosenEdges(step, mesh, edges, around),
        {
          sizeIs: step.sizeIs,
          size: step.size,
          segments: Math.max(step.segments, Math.min(fine, 32)),
          shape: step.shape,
          patch: (kind, between) => ownPatch(step, `${kind} ${between}`.trim()),
        },
        edges,
      );
      const held = made.sizeMm < step.size;
      return {
        mesh: made.mesh,
        figures: [
          { label: 'edges', value: made.edges, unit: '' },
          ...(Number.isFinite(made.mostMm) ? [{ label: 'largest that fits', value: made.mostMm, unit: 'mm' }] : []),
        ],
        ...(held && {
          notes: [
            {
              code: 'bevel/held',
              message: `“${step.name}” of ${millimetres(step.size)} has only ${millimetres(made.mostMm)} of room; ${millimetres(made.sizeMm)} are taken.`,
              value: step.size,
              limit: made.mostMm,
              unit: 'mm',
              ...(made.tightAt && { where: [made.tightAt] }),
            },
          ],
        }),
      };
    },
  },
} satisfies StepKind<BevelStep>;
