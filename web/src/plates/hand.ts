import { type AssetDocument, sharers } from '@wellmorph/core/pipeline/document';
import type { GapField } from '@wellmorph/core/uv/hand/gaps';
import { type IslandPlace, type Shift, shifted } from '@wellmorph/core/uv/hand/places';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { isFresh } from '@/session/state';

/** An island, as everything is kept by: `part/number`. */
export const keyOf = (i: { part: string; island: number }): string => `${i.part}/${i.island}`;

/** Islands as they are put elsewhere by hand. */
export interface Hand {
  /** The layout’s islands, as they lie in it. Null while they are not known. */
  there: ReadonlyMap<string, IslandPlace> | null;
  /** Those that were put elsewhere since it was made. */
  moved: ReadonlyMap<string, IslandPlace>;
  locked: ReadonlySet<string>;
  /** How many a person placed, whether found or not. */
  placed: number;
  /** The chosen island, with what lies round it once that is known. */
  chosen: { part: string; island: number; key: string; place: IslandPlace; field: GapField | null } | null;
  pick(part: string, island: number): void;
  /** Puts the chosen island elsewhere: an edit, the layout follows. */
  shift(about: readonly [number, number], by: Shift): void;
  lock(on: boolean): void;
  /** Leaves the chosen island to the packer. */
  release(): void;
  /** Leaves all that are not locked to the packer. */
  packRest(): void;
}

interface Known {
  of: object;
  /** The document’s places that `given` counts. */
  with: readonly IslandPlace[] | undefined;
  islands: { part: string; island: number; place: IslandPlace; given: number }[];
}

/** The layout in view as a hand may change it, while `on`. */
export function useHand(on: boolean): Hand {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const selected = useSheet((s) => s.selected.island);
  const fresh = isFresh(document, layout, 'unwrap');
  const parts = on ? layout?.parts : undefined;
  const [known, setKnown] = useState<Known | null>(null);
  const [moved, setMoved] = useState<ReadonlyMap<string, IslandPlace>>(new Map());
  const [field, setField] = useState<{ of: object; key: string; field: GapField } | null>(null);
  // The island in hand stays in hand when its layout is made anew.
  const inHand = useRef<{ part: string; island: number } | null>(null);
  const said = useRef<readonly IslandPlace[] | undefined>(undefined);

  useEffect(() => {
    const about = session.document;
    if (!parts || !about) return setKnown(null);
    let gone = false;
    session.bench.pool
      .run('places', { document: about, parts })
      .then((found) => {
        if (gone) return;
        setKnown({ of: parts, with: about.unwrap.places, islands: found.map((i) => ({ ...i, part: i.place.part })) });
        const held = inHand.current;
        if (held && !session.state.selected.island && found.some((i) => i.place.part === held.part && i.island === held.island))
          session.pickIsland(held.part, held.island);
      })
      .catch((error) => !gone && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
    };
  }, [session, parts]);

  // A layout of the document as it is has taken them all; what was undone or changed elsewhere holds no more.
  const places = document?.unwrap.places;
  const settled = fresh && known?.of === parts;
  useEffect(() => {
    if (settled || places !== said.current) setMoved((m) => (m.size > 0 ? new Map() : m));
  }, [settled, places]);

  const owner = selected && document ? (sharers(document)[selected.part] ?? selected.part) : null;
  const island = selected?.island ?? -1;
  const key = on && owner !== null ? keyOf({ part: owner, island }) : null;
  const islands = known && known.of === parts ? known.islands : null;
  const there = useMemo(() => (islands ? new Map(islands.map((i) => [keyOf(i), i.place])) : null), [islands]);
  const locked = useMemo(() => lockedOf(islands ?? [], known?.with, places), [islands, known, places]);
  useEffect(() => {
    if (on && owner !== null) inHand.current = { part: owner, island };
    if (!on) inHand.current = null;
  }, [on, owner, island]);

  const chosenThere = key !== null && (there?.has(key) ?? false);
  useEffect(() => {
    const about = session.document;
    if (!parts || !about || owner === null || !chosenThere) return;
    let gone = false;
    session.bench.pool
      .run('around', { document: about, parts, part: owner, island })
      .then((made) => !gone && setField({ of: parts, key: keyOf({ part: owner, island }), field: made }))
      .catch((error) => !gone && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
    };
  }, [session, parts, owner, island, chosenThere]);

  /** All islands as they lie now, changed by `to`: a place, or none to leave it to the packer. */
  const now = useRef({ islands, moved, locked, key });
  now.current = { islands, moved, locked, key };
  const say = useCallback(
    (to: (key: string, place: IslandPlace) => IslandPlace | null) => {
      const { islands: all, moved: since, locked: fast } = now.current;
      if (!all) return;
      const list = all.flatMap((i) => {
        const place = { ...(since.get(keyOf(i)) ?? i.place), ...(fast.has(keyOf(i)) && { locked: true }) };
        return to(keyOf(i), place) ?? [];
      });
      session.dispatch({ type: 'islands.place', places: list });
      said.current = session.document?.unwrap.places;
    },
    [session],
  );
  const shift = useCallback(
    (about: readonly [number, number], by: Shift) => {
      const { key: mine, islands: all, moved: since } = now.current;
      const place = mine && (since.get(mine) ?? all?.find((i) => keyOf(i) === mine)?.place);
      if (!mine || !place) return;
      const next = shifted(place, about, by);
      say((k, p) => (k === mine ? { ...next, ...(p.locked && { locked: true }) } : p));
      const movedNow = new Map(since).set(mine, next);
      now.current = { ...now.current, moved: movedNow };
      setMoved(movedNow);
    },
    [say],
  );
  const lock = useCallback(
    (to: boolean) =>
      say((k, p) => {
        const { locked: _, ...free } = p;
        return k !== now.current.key ? p : to ? { ...free, locked: true } : free;
      }),
    [say],
  );
  const release = useCallback(() => say((k, p) => (k === now.current.key ? null : p)), [say]);
  const packRest = useCallback(() => say((_, p) => (p.locked ? p : null)), [say]);
  const pick = useCallback((part: string, number: number) => session.pickIsland(part, number), [session]);
  const place = key !== null ? (moved.get(key) ?? there?.get(key)) : undefined;
  const chosen =
    key !== null && owner !== null && place
      ? { part: owner, island, key, place, field: field?.of === parts && field?.key === key ? field.field : null }
      : null;
  return { there, moved, locked, placed: places?.length ?? 0, chosen, pick, shift, lock, release, packRest };
}

/** Islands that are locked: those whose place the document locks, found by that place of the piece or as the worker found them. */
function lockedOf(
  islands: Known['islands'],
  countedIn: readonly IslandPlace[] | undefined,
  places: readonly IslandPlace[] | undefined,
): ReadonlySet<string> {
  const said = (p: IslandPlace): string => `${p.part} ${p.from.join(' ')}`;
  const fast = new Set(places?.filter((p) => p.locked).map(said));
  return new Set(islands.filter((i) => fast.has(said(i.place)) || (countedIn === places && places?.[i.given]?.locked)).map(keyOf));
}

/** Copies and twins lie where what they are like lies: only that is moved. */
export const ownIslands = <T extends { part: string; twin?: true }>(document: AssetDocument, islands: readonly T[]): T[] => {
  const copies = sharers(document);
  return islands.filter((i) => !i.twin && !Object.hasOwn(copies, i.part));
};
