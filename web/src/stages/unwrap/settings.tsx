'use client';

import { FILED, type Filed } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { SliderField } from '@/sheet/slider';

/** How much is had once that is there several times. */
const twinWords = ({ shells, mirrored, savedShare }: NonNullable<LayoutFigures['twins']>): string =>
  `${shells} shared${mirrored > 0 ? `, ${mirrored} mirrored` : ''}: ${figure(100 * savedShare, 0)} % saved`;

/** What the layout is made by. @param atOnce it is made again whenever something changed */
export function LayoutSettings({ atOnce, onAtOnce }: { atOnce: boolean; onAtOnce(on: boolean): void }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const filed = useSheet((s) => s.form?.gpu.some((p) => p.uv) ?? false);
  if (!document) return null;
  const size = document.brief.limits.textureSize;
  const fresh = isFresh(document, layout, 'unwrap');
  const f = layout?.figures;
  return (
    <>
      <Heading aside={`${size} × ${size}`}>Layout</Heading>
      <NumberField
        label="Padding"
        hint="empty texels between islands"
        kind="whole"
        unit="px"
        min={0}
        max={128}
        value={document.unwrap.padding}
        onCommit={(padding) => session.dispatch({ type: 'unwrap.set', patch: { padding } })}
      />
      <SliderField
        label="Fewer seams"
        hint="less stretch below 0; imports"
        min={-2}
        max={2}
        step={0.5}
        digits={1}
        value={document.unwrap.fewer}
        onCommit={(fewer) => session.dispatch({ type: 'unwrap.set', patch: { fewer } })}
      />
      <NumberField
        label="Cut again when stretched by"
        hint="on average over an island"
        kind="number"
        unit="L²"
        min={1.001}
        max={3}
        value={document.unwrap.stretchLimit}
        onCommit={(stretchLimit) => session.dispatch({ type: 'unwrap.set', patch: { stretchLimit } })}
      />
      <NumberField
        label="Cut where faces turn by"
        hint="imported parts"
        kind="number"
        unit="°"
        min={1}
        max={180}
        value={document.unwrap.seamAngle}
        onCommit={(seamAngle) => session.dispatch({ type: 'unwrap.set', patch: { seamAngle } })}
      />
      <Choice
        label="Turn islands"
        hint={document.unwrap.rotate === 'freely' ? 'slanted edges staircase in bakes' : undefined}
        value={document.unwrap.rotate === 'freely' ? 2 : document.unwrap.rotate ? 1 : 0}
        choices={[
          [1, 'in quarters'],
          [2, 'freely, by 30°'],
          [0, 'never'],
        ]}
        onChange={(v) => session.dispatch({ type: 'unwrap.set', patch: { rotate: v === 2 ? 'freely' : v === 1 } })}
      />
      <Choice
        label="Long islands"
        hint="prints and films stay whole"
        value={document.unwrap.whole ? 1 : 0}
        choices={[
          [0, 'divided to fit'],
          [1, 'kept whole'],
        ]}
        onChange={(v) => session.dispatch({ type: 'unwrap.set', patch: { whole: v === 1 } })}
      />
      {document.parts.some((p) => p.shape.kind === 'mesh') && (
        <Choice
          label="Shells of one shape"
          hint={f?.twins && fresh ? twinWords(f.twins) : 'imported, no high mesh'}
          value={document.unwrap.twins ?? 'each'}
          choices={[
            ['once', 'share their texels'],
            ['each', 'have their own'],
          ]}
          onChange={(twins) => session.dispatch({ type: 'unwrap.set', patch: { twins } })}
        />
      )}
      {filed && (
        <Choice
          label="Layouts of files"
          value={document.unwrap.filed ?? 'anew'}
          choices={Object.entries(FILED) as [Filed, string][]}
          onChange={(how) => session.dispatch({ type: 'unwrap.set', patch: { filed: how } })}
        />
      )}
      <Choice
        label="After a change"
        value={atOnce ? 1 : 0}
        choices={[
          [0, 'wait'],
          [1, 'lay out again'],
        ]}
        onChange={(v) => onAtOnce(v === 1)}
      />
    </>
  );
}
