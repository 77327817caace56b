import { adviseBrief } from '@wellmorph/core/brief/advice';
import type { Finding } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { resultHash, type Stage } from '@wellmorph/core/pipeline/results';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { allFindings } from '@/sheet/all-findings';
import type { Station } from '@/sheet/stations';
import { bakeStatus, formStatus, handoffStatus, lightStatus, renderStatus, type Status, surfaceStatus, unwrapStatus } from '@/sheet/status';
import { listAssets } from './db/assets';
import { latestOfAll } from './db/results';

/** What the workshop shows of one asset. */
export interface Card {
  id: string;
  name: string;
  purpose: AssetDocument['brief']['purpose'];
  sizeMm: [number, number, number] | null;
  thumbnail: string | null;
  triangles: number | null;
  triangleLimit: number;
  density: number | null;
  memoryMB: number;
  memoryLimit: number;
  wantedDensity: number;
  deadline: string | null;
  worst: Pick<Finding, 'message' | 'severity'> | null;
  findings: number;
  stages: Record<Station, Status>;
}

export async function workshopCards(): Promise<Card[]> {
  const [assets, results] = await Promise.all([listAssets(), latestOfAll()]);
  return assets.map((asset) => {
    const { document } = asset;
    const of = (stage: Stage) => results.find((r) => r.assetId === asset.id && r.stage === stage);
    const fresh = (stage: Stage) => of(stage)?.hash === resultHash(document, stage);
    const form = of('form')?.figures as { ledger: Ledger; findings: Finding[] } | undefined;
    const layout = of('unwrap')?.figures as LayoutFigures | undefined;
    const bake = of('bake')?.figures as BakeFigures | undefined;
    const look = results.find((r) => r.assetId === asset.id && (r.stage as string) === 'look');
    const found = allFindings(document, form?.findings ?? [], look && { hash: look.hash, ...(look.figures as Look) });
    const open = found.filter((f) => !f.waived && f.severity !== 'information');
    const { brief } = document;
    const surface = of('surface')?.figures as SurfaceFigures | undefined;
    const render = of('render')?.figures as RenderFigures | undefined;
    const stages = {
      form: form ? formStatus(found, fresh('form')) : 'none',
      unwrap: layout ? unwrapStatus(layout, fresh('unwrap')) : 'none',
      bake: bake ? bakeStatus(bake, fresh('bake')) : 'none',
      surface: surface ? surfaceStatus(surface, fresh('surface')) : 'none',
      light: lightStatus(document),
      render: render ? renderStatus(render, fresh('render')) : 'none',
    } satisfies Partial<Record<Station, Status>>;
    return {
      id: asset.id,
      name: asset.name,
      purpose: brief.purpose,
      sizeMm: form && form.ledger.triangles > 0 ? form.ledger.sizeMm : null,
      thumbnail: asset.thumbnail,
      triangles: form?.ledger.triangles ?? null,
      triangleLimit: brief.limits.triangles,
      density: layout?.density ?? null,
      wantedDensity: wantedDensityOf(document),
      memoryMB: form?.ledger.memoryMB ?? memoryOf(document),
      memoryLimit: brief.limits.memoryMB,
      deadline: brief.deadline,
      worst: open[0] ? { message: open[0].message, severity: open[0].severity } : null,
      findings: open.length,
      stages: { brief: 'ok', ...stages, 'hand-off': handoffStatus(Object.values(stages)) },
    };
  });
}

const wantedDensityOf = (document: AssetDocument): number => adviseBrief(document.brief).wanted.densityPxPerCm;
const memoryOf = (document: AssetDocument): number => adviseBrief(document.brief).memory.value;
