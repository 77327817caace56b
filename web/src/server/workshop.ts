import { adviseBrief } from '@wellmorph/core/brief/advice';
import type { Family } from '@wellmorph/core/brief/family';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { allFindings } from '@wellmorph/core/pipeline/all-findings';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import { textureMemoryMB } from '@wellmorph/core/pipeline/delivered';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { type Kept, nameOf, type StoredResult } from '@wellmorph/core/pipeline/results';
import { type Status, stageStatuses } from '@wellmorph/core/pipeline/status';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { LengthUnit } from '@wellmorph/core/units/lengths';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import type { Station } from '@/shared/stations';
import { listAssets } from './db/assets';
import { resultsOfAll } from './db/results';
import { type Forming, formingNow } from './jobs/forming';

/** What the workshop shows of one asset. */
export interface Card {
  id: string;
  name: string;
  purpose: AssetDocument['brief']['purpose'];
  sizeMm: [number, number, number] | null;
  unit: LengthUnit;
  thumbnail: string | null;
  triangles: number | null;
  triangleLimit: number;
  density: number | null;
  memoryMB: number;
  memoryLimit: number;
  wantedDensity: number;
  deadline: string | null;
  family: Family | null;
  worst: Pick<Finding, 'message' | 'severity'> | null;
  findings: number;
  stages: Record<Station, Status>;
  /** How far forming it is, where the server does that by itself. */
  forming: Forming | null;
  /** Whether there is anything to form. */
  hasParts: boolean;
}

/** @param of the assets, where they are known already */
export async function workshopCards(of?: readonly Listed[]): Promise<Card[]> {
  const list = of ?? (await listAssets());
  const results = await resultsOfAll(list);
  return list.map((asset) => cardOf(asset, results.get(asset.id) ?? []));
}

type Listed = Awaited<ReturnType<typeof listAssets>>[number];

function cardOf(asset: Listed, results: readonly StoredResult[]): Card {
  const { document } = asset;
  const of = (kind: Kept) => results.find((r) => r.stage === kind);
  const figures = <T>(kind: Kept) => of(kind)?.figures as T | undefined;
  const fresh = (kind: Kept) => of(kind)?.name === nameOf(document, kind);
  const form = figures<{ ledger: Ledger }>('form');
  const [findings, look] = [of('findings'), of('look')];
  const found = allFindings(document, {
    findings: findings ? { name: findings.name, findings: (findings.figures as { findings: Finding[] }).findings } : null,
    look: look ? { name: look.name, findings: (look.figures as Look).findings } : null,
  });
  const open = found.filter((f) => !f.waived && f.severity !== 'information');
  const { brief } = document;
  const wantedDensity = adviseBrief(brief).wanted.densityPxPerCm;
  const layout = figures<LayoutFigures>('unwrap');
  const made = <T>(kind: Kept) => {
    const its = figures<T>(kind);
    return its && { figures: its, fresh: fresh(kind) };
  };
  const stages = stageStatuses(document, {
    form: form && form.ledger.triangles > 0 ? { findings: found, fresh: fresh('form') } : undefined,
    unwrap: made<LayoutFigures>('unwrap'),
    bake: made<BakeFigures>('bake'),
    surface: made<SurfaceFigures>('surface'),
    render: made<RenderFigures>('render'),
  });
  return {
    id: asset.id,
    name: asset.name,
    purpose: brief.purpose,
    sizeMm: form && form.ledger.triangles > 0 ? form.ledger.sizeMm : null,
    unit: brief.unit ?? 'mm',
    thumbnail: asset.thumbnail,
    triangles: form?.ledger.triangles ?? null,
    triangleLimit: brief.limits.triangles,
    density: layout?.density ?? null,
    wantedDensity,
    memoryMB: textureMemoryMB(document),
    memoryLimit: brief.limits.memoryMB,
    deadline: brief.deadline,
    family: brief.family ?? null,
    worst: open[0] ? { message: open[0].message, severity: open[0].severity } : null,
    findings: open.length,
    stages: { brief: 'ok', ...stages },
    forming: formingNow().get(asset.id) ?? null,
    hasParts: document.parts.length > 0,
  };
}
