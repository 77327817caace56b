import { sharers } from '@wellmorph/core/pipeline/document';
import type { Print } from '@wellmorph/core/print/print';
import { useMemo, useRef } from 'react';
import type { Stroking } from '@/plates/stroke';
import { useSession } from '@/session/context';
import { sentence } from '@/session/session';
import type { Bytes, GpuPart } from '@/workers/protocol';

/**
 * A print put on the piece where it is pressed, and dragged over it.
 *
 * @param id of the print; null while none is put @param parts the laid-out parts and how they are drawn @param onDraft the print on its way,
 * with the one of the document that it was; null once it is put down
 */
export function usePutting(
  id: string | null,
  parts: { bytes: Bytes; gpu: readonly GpuPart[] } | null,
  onDraft: (draft: { of: Print; print: Print } | null) => void,
): Stroking | undefined {
  const session = useSession();
  const shown = useRef(onDraft);
  shown.current = onDraft;
  return useMemo((): Stroking | undefined => {
    if (id === null || !parts) return undefined;
    const gpuOf = new Map(parts.gpu.map((p) => [p.id, p]));
    const current = () => session.document?.prints?.find((p) => p.id === id);
    let put: { part: string; face: number; at: Print['at'] } | null = null;
    let last = Promise.resolve();
    const placed = ({ region, ...of }: Print, { part, at }: NonNullable<typeof put>): Print => ({
      ...of,
      part,
      at,
      across: { from: 'put', mm: 0 },
      up: { from: 'put', mm: 0 },
      // A region belongs to its part.
      ...(region !== undefined && part === of.part && { region }),
    });
    return {
      spacing: 0.05,
      at(over, point, { triangle, normal }) {
        const d = session.document;
        const of = current();
        const gpu = gpuOf.get(over);
        if (!d || !of || !gpu) return;
        put = { part: sharers(d)[over] ?? over, face: gpu.face[triangle] ?? 0, at: { point, normal } };
        shown.current({ of, print: placed(of, put) });
      },
      end() {
        const down = put;
        put = null;
        if (!down) return;
        // One after the other: where it was put last is where it stays.
        last = last.then(async () => {
          try {
            const spot = await session.bench.pool.run('spot', {
              parts: parts.bytes,
              part: down.part,
              face: down.face,
              point: [...down.at.point],
            });
            // It may have been changed, or removed, meanwhile: only its place is this one’s to say.
            const of = current();
            if (of) session.dispatch({ type: 'print.set', print: placed(of, { ...down, at: { ...down.at, ...(spot && { spot }) } }) });
          } catch (error) {
            session.notify(sentence(error), 'error');
          } finally {
            // Taken up again meanwhile it is shown where it is by now.
            if (!put) shown.current(null);
          }
        });
      },
    };
  }, [session, id, parts]);
}
