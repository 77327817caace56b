'use client';

import { PREVIEW } from '@wellmorph/core/bake/forecast';
import { figure } from '@wellmorph/core/units/lengths';
import { useLengths } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import type { BakePreview } from './preview';

/** What the bake would come to with the settings as they are, as far as the preview can say. */
export function Previewed({
  preview,
  older,
  busy,
  onBake,
}: {
  preview: BakePreview;
  /** Figures of a bake of an older state stand below. */
  older: boolean;
  busy: boolean;
  onBake(): void;
}) {
  const { say } = useLengths();
  const { judgement: j, verdict, missedShare, backShare } = preview.figures;
  const lost = [
    missedShare > 0.002 && `${figure(100 * missedShare, 1)} % of the rays find nothing`,
    backShare > 0.005 && `${figure(100 * backShare, 1)} % meet a back face`,
  ].filter(Boolean);
  return (
    <AdviceCard
      level={lost.length > 0 ? 'over' : 'near'}
      title={`Previewed at ${PREVIEW}², not baked yet.`}
      accept={{ words: 'Bake it', run: onBake, disabled: busy }}
    >
      {lost.length > 0
        ? `${lost.join(', ')}. ${verdict?.change ? say(verdict.change) : ''}`
        : j
          ? `At this size ${figure(j.mean, 1)}° off on average, 19 of 20 texels under ${figure(j.p95, 1)}°.`
          : 'Its maps are shown as they would be.'}
      {older && ' What stands below is of the last bake.'}
    </AdviceCard>
  );
}
