import { wallThickness } from '../../inspect/thickness';
import { keepFaces } from '../../mesh/edit';
import type { PolyMesh } from '../../mesh/polymesh';
import { shell as shelled } from '../../mesh/shell';
import { regionField } from '../changers';
import { choice, size } from '../fields';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Gives everything above it a wall of constant thickness, left open where a region says so. Lengths in mm. */
export interface ShellStep extends StepBase {
  kind: 'shell';
  thickness: number;
  side: 'in' | 'out' | 'middle';
  /** A region whose faces are taken away first, so that the wall is open there. */
  region?: string;
}

export const shell = {
  kind: 'shell',
  name: 'wall',
  about: 'Hollows out everything above it: a wall of one thickness, open where you say. Before bevels, which then round both its edges.',
  fields: [
    size('thickness', 'Wall'),
    choice('side', 'It grows', [
      ['in', 'inward'],
      ['out', 'outward'],
      ['middle', 'both ways'],
    ]),
    regionField('Open at', { none: 'nowhere' }),
  ],
  fresh: () => ({ name: 'Wall', thickness: 2, side: 'in' as const }),
  words: (s: ShellStep, length) => `wall ${length(s.thickness, 2)}`,
  changer: {
    change(step: ShellStep, mesh, _detail, around) {
      let open: PolyMesh = mesh;
      if (step.region) {
        const gone = around.own(step.region, mesh);
        open = keepFaces(mesh, (f) => !gone[f]);
      }
      const made = shelled(open, {
        thickness: step.thickness,
        side: step.side,
        inside: (patch) => ownPatch(step, `inside ${patch}`),
        rim: ownPatch(step, 'rim'),
      });
      const wall = wallThickness(made.mesh);
      return {
        mesh: made.mesh,
        figures: [
          { label: 'thickest that fits', value: made.mostMm, unit: 'mm' },
          ...(wall ? [{ label: 'wall measured', value: wall.least, to: wall.most, unit: 'mm' }] : []),
        ],
      };
    },
  },
} satisfies StepKind<ShellStep>;
