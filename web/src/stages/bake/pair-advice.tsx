'use client';

import { lieWords } from '@wellmorph/core/bake/lie-words';
import { several } from '@wellmorph/core/pipeline/commands/together';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { MeasuredPair } from '@wellmorph/core/pipeline/pair-lies';
import { useLengths, useSession } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import { newId } from '@/sheet/ids';

/** What is wrong with pairs before anything is baked, each thing said once, with what helps. */
export function PairAdvice({ document, pairs }: { document: AssetDocument; pairs: readonly MeasuredPair[] }) {
  const session = useSession();
  const { length } = useLengths();
  const name = (id: string) => document.parts.find((p) => p.id === id)?.name ?? '';
  const wrong = pairs.flatMap((p) => {
    const words = lieWords(name(p.id), p.lie);
    return words ? [{ id: p.id, ...words }] : [];
  });
  const inside = pairs.filter((p) => p.lie.insideMm > 0 && !wrong.some((w) => w.id === p.id));
  const grow = () => {
    const commands = inside.map((p) => ({
      type: 'step.add' as const,
      part: p.id,
      step: { kind: 'grow' as const, id: newId(), name: 'Grow', enabled: true, by: Math.round(1000 * p.lie.insideMm) / 1000 },
    }));
    session.dispatch(commands.length === 1 ? commands[0] : several(`grew ${commands.length} parts to their high meshes`, commands));
  };
  return (
    <>
      {wrong.map((w) => (
        <AdviceCard key={w.id} level="over" title={w.sentence}>
          {w.help}
        </AdviceCard>
      ))}
      {inside.length > 0 && (
        <AdviceCard
          level="near"
          title={
            inside.length === 1
              ? `“${name(inside[0].id)}” lies inside its high mesh by ${length(inside[0].lie.insideMm)}, all over.`
              : `${inside.length} parts lie inside their high meshes, all over: by ${inside
                  .slice(0, 4)
                  .map((p) => `${length(p.lie.insideMm)} (“${name(p.id)}”)`)
                  .join(', ')}${inside.length > 4 ? ' …' : '.'}`
          }
          accept={{
            words: inside.length === 1 ? `Grow it by ${length(inside[0].lie.insideMm)}` : `Grow each by what it is short`,
            run: grow,
          }}
        >
          Its outline would be too thin, and rays have to search that much farther. A step can move it out; it can be taken back.
        </AdviceCard>
      )}
    </>
  );
}
