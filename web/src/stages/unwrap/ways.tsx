'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type AssetDocument, originalOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { type ChoiceResult, type FlatChoice, needsDirection, REFUSED, sameTarget } from '@wellmorph/core/uv/chosen/choices';
import { CHOSEN, type ChosenMethod } from '@wellmorph/core/uv/words';
import { useEffect, useRef, useState } from 'react';
import type { Lookout } from '@/plates/lookout';
import type { PlaceMarks } from '@/plates/place-marks';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { WhyMeant } from '@/sheet/why-meant';

type Vec3 = readonly [number, number, number];

/** Where something can be seen from, in its own space. */
const SIDES: Record<string, { name: string; towards: Vec3 }> = {
  front: { name: 'the front, z', towards: [0, 0, 1] },
  back: { name: 'the back, −z', towards: [0, 0, -1] },
  right: { name: 'the right, x', towards: [1, 0, 0] },
  left: { name: 'the left, −x', towards: [-1, 0, 0] },
  above: { name: 'above, y', towards: [0, 1, 0] },
  below: { name: 'below, −y', towards: [0, -1, 0] },
};
const AXES: Record<string, { name: string; towards: Vec3 }> = {
  y: { name: 'upright, y', towards: [0, 1, 0] },
  x: { name: 'across, x', towards: [1, 0, 0] },
  z: { name: 'to the front, z', towards: [0, 0, 1] },
};
const WAYS: readonly (readonly [ChosenMethod | 'usual', string])[] = [
  ['usual', 'as suits it'],
  ...(Object.entries(CHOSEN) as [ChosenMethod, string][]),
];
/** Stretch that shows in no pattern: not worth a word. */
const SHOWS = 1.02;

const same = (a: Vec3 | undefined, b: Vec3 | undefined): boolean => !!a && !!b && a.every((x, k) => Math.abs(x - b[k]) < 1e-6);

/** What a choice begins with. */
function fresh(method: ChosenMethod, part: string, at: FlatChoice['at'], before?: FlatChoice): FlatChoice {
  const towards = before?.towards ?? (method === 'direction' ? (at?.facing ?? [0, 0, 1]) : [0, 1, 0]);
  return {
    part,
    ...(at && { at }),
    method,
    ...(needsDirection(method) && { towards }),
    ...(method === 'rectangle' && { size: before?.size ?? [100, 50] }),
    ...(before?.meant && { meant: before.meant }),
  };
}

/** Islands and parts that are laid flat otherwise than they would be: the picked one’s way, and all that were chosen with what came of them. */
export function Ways({ lookout, onShow }: { lookout: Lookout; onShow(places: PlaceMarks): void }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const island = useSheet((s) => s.selected.island);
  const picked = useSheet((s) => s.selected.part);
  const [forPart, setForPart] = useState(false);
  const asking = useRef(0);
  useEffect(() => {
    asking.current++;
  }, [island]);
  // The island something was chosen for stays picked when it is laid anew, whatever its number is then.
  const [held, setHeld] = useState<{ of: object; part: string; island: number; at: FlatChoice['at'] } | null>(null);
  useEffect(() => {
    const { unwrap } = session.state;
    if (!held || !unwrap || unwrap.parts === held.of) return;
    const there = unwrap.figures.choices?.find((c) => sameTarget(c, held))?.island;
    // A layout that was under way when it was chosen doesn’t have it yet.
    if (there === undefined) return;
    if (!session.state.selected.island) session.pickIsland(held.part, there);
    setHeld(null);
  }, [session, held, layout]);
  if (!document || !layout) return null;
  const choices = document.unwrap.choices ?? [];
  const results = layout.figures.choices;
  const settled = isFresh(document, layout, 'unwrap');
  const part = document.parts.find((p) => p.id === (island?.part ?? picked));
  const own = part && originalOf(document, part);
  const whole = forPart || !island;
  // A layout in view knows the islands of the choices it was made with; one made since is known by what was picked for it.
  const heldHere = held && held.of === layout.parts && held.part === own?.id && held.island === island?.island ? held : null;
  const isHere = (c: FlatChoice): boolean =>
    results?.find((r) => sameTarget(r, c))?.island === island?.island || (heldHere !== null && sameTarget(c, heldHere));
  const now = own && choices.find((c) => c.part === own.id && (whole ? !c.at : c.at !== undefined && isHere(c)));
  const say = (list: readonly FlatChoice[]) => session.dispatch({ type: 'islands.lay', choices: [...list] });
  const put = (choice: FlatChoice) => {
    const list = session.document?.unwrap.choices ?? [];
    say(list.some((c) => sameTarget(c, choice)) ? list.map((c) => (sameTarget(c, choice) ? choice : c)) : [...list, choice]);
  };
  const drop = (choice: FlatChoice) => say((session.document?.unwrap.choices ?? []).filter((c) => !sameTarget(c, choice)));
  const choose = async (method: ChosenMethod | 'usual') => {
    if (!own) return;
    if (method === 'usual') return now && drop(now);
    if (now && island && now.at) setHeld({ of: layout.parts, part: now.part, island: island.island, at: now.at });
    if (now) return put(fresh(method, now.part, now.at, now.method === method ? now : { ...now, towards: undefined }));
    if (whole || !island) return put(fresh(method, own.id, undefined));
    const mine = ++asking.current;
    try {
      const found = await session.bench.pool.run('places', { document, parts: layout.parts });
      // Another island may have been picked, or the part be gone.
      if (mine !== asking.current || !session.document?.parts.some((p) => p.id === own.id)) return;
      const there = found.find((i) => i.place.part === own.id && i.island === island.island)?.place;
      if (!there) return session.notify('This island has the texels of another one: choose there.', 'error');
      const at = { from: there.from, facing: there.facing };
      setHeld({ of: layout.parts, part: own.id, island: island.island, at });
      put(fresh(method, own.id, at));
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside={choices.length > 0 ? `${choices.length} chosen` : undefined}>Laid flat otherwise</Heading>
      {!own ? (
        <Box sx={{ fontSize: 12.5, color: 'text.secondary', my: 0.6 }}>Pick an island, on the piece or in the layout.</Box>
      ) : (
        <>
          <Choice
            label="Picked"
            hint={part?.name}
            value={whole ? 1 : 0}
            choices={
              island
                ? [
                    [0, `island ${island.island + 1}`],
                    [1, 'the whole part'],
                  ]
                : [[1, 'the whole part']]
            }
            onChange={(v) => setForPart(v === 1)}
          />
          <Choice<ChosenMethod | 'usual'> label="is laid" value={now?.method ?? 'usual'} choices={WAYS} onChange={(m) => void choose(m)} />
          {now && <Details choice={now} lookout={lookout} onPut={put} />}
        </>
      )}
      {choices.map((c) => (
        <Chosen
          key={`${c.part} ${c.at?.from.join(' ') ?? ''}`}
          document={document}
          choice={c}
          result={settled ? results?.find((r) => sameTarget(r, c)) : undefined}
          onShow={onShow}
          onMeant={(meant) => put({ ...c, meant })}
          onDrop={() => drop(c)}
        />
      ))}
    </Box>
  );
}

/** Direction, axis or size of a choice. */
function Details({ choice, lookout, onPut }: { choice: FlatChoice; lookout: Lookout; onPut(choice: FlatChoice): void }) {
  const { method, at, towards } = choice;
  if (method === 'rectangle') {
    const [w, h] = choice.size ?? [100, 50];
    return (
      <>
        <NumberField label="Width" min={0.01} value={w} onCommit={(x) => onPut({ ...choice, size: [x, h] })} />
        <NumberField label="Height" min={0.01} value={h} onCommit={(x) => onPut({ ...choice, size: [w, x] })} />
      </>
    );
  }
  if (!needsDirection(method)) return null;
  const list = method === 'direction' ? SIDES : AXES;
  const face = at?.facing;
  const key =
    Object.keys(list).find((k) => same(list[k].towards, towards)) ?? (method === 'direction' && same(face, towards) ? 'face' : 'view');
  const choices: [string, string][] = Object.entries(list).map(([k, { name }]) => [k, name]);
  if (method === 'direction') {
    if (face) choices.unshift(['face', 'its own face']);
    choices.push(['view', key === 'view' ? 'as it was seen' : 'as it is seen now']);
  } else if (key === 'view') choices.push(['view', 'as it was set']);
  const take = (k: string) => {
    const { up: _, ...rest } = choice;
    if (k === 'face' && face) onPut({ ...rest, towards: face });
    else if (k === 'view') {
      const seen = lookout.current?.(choice.part);
      if (seen) onPut({ ...rest, ...seen });
    } else onPut({ ...rest, towards: list[k].towards });
  };
  return (
    <>
      <Choice label={method === 'direction' ? 'from' : 'its axis'} value={key} choices={choices} onChange={take} />
      {key === 'view' && method === 'direction' && (
        <Button size="small" onClick={() => take('view')}>
          As it is seen now
        </Button>
      )}
    </>
  );
}

/** One choice, what came of it, and what can be done about it. */
function Chosen({
  document,
  choice,
  result,
  onShow,
  onMeant,
  onDrop,
}: {
  document: AssetDocument;
  choice: FlatChoice;
  result: (ChoiceResult & { island?: number }) | undefined;
  onShow(places: PlaceMarks): void;
  onMeant(why: string | undefined): void;
  onDrop(): void;
}) {
  const [asked, setAsked] = useState(false);
  const name = document.parts.find((p) => p.id === choice.part)?.name ?? 'A part that is gone';
  const stretched = result && result.islands > 0 && result.stretchL2 > SHOWS;
  return (
    <Box sx={{ fontSize: 12.5, mt: 0.6, pt: 0.4, borderTop: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center' }}>
        <span>
          <b>{name}</b>
          {!choice.at ? ', whole' : result?.island !== undefined ? `, island ${result.island + 1}` : ''}: {CHOSEN[choice.method]}
        </span>
        <Button size="small" sx={{ flexShrink: 0 }} aria-label={`Lay ${name} as suits it`} onClick={onDrop}>
          Take back
        </Button>
      </Box>
      {result && result.islands > 0 && (
        <Box sx={{ color: 'text.secondary' }}>
          {result.islands === 1 ? '1 island' : `${figure(result.islands, 0)} islands`}, stretch {figure(result.stretchL2, 3)} L²
          {choice.meant ? `, meant: ${choice.meant}` : ''}
        </Box>
      )}
      {result?.lost && <Box sx={{ color: 'error.main' }}>Its place is on no island any more.</Box>}
      {result?.refused.map((r) => (
        <Box key={r.why} sx={{ color: 'warning.main' }}>
          {r.faces === 1 ? '1 face' : `${figure(r.faces, 0)} faces`} {REFUSED[r.why]}: laid as suits them.{' '}
          <Button size="small" onClick={() => onShow([{ part: choice.part, points: r.places }])}>
            Show
          </Button>
        </Box>
      ))}
      {choice.meant ? (
        <Button size="small" onClick={() => onMeant(undefined)}>
          Not meant
        </Button>
      ) : (
        stretched &&
        !asked && (
          <Button size="small" onClick={() => setAsked(true)}>
            The stretch is meant …
          </Button>
        )
      )}
      {asked && (
        <WhyMeant
          does="It is meant"
          onSay={(words) => {
            onMeant(words);
            setAsked(false);
          }}
          onLeave={() => setAsked(false)}
        />
      )}
    </Box>
  );
}
