import { type AssetDocument, sharers } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
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
  /** Others that are in hand with the chosen one: what is done to it is done to all. */
  also: ReadonlySet<string>;
  /** The chosen island, with what lies round it once that is known. */
  chosen: { part: string; island: number; key: string; place: IslandPlace; field: GapField | null } | null;
  /** @param more adds it to those in hand, or takes it out */
  pick(part: string, island: number, more?: boolean): void;
  /** Puts what is in hand elsewhere: an edit, the layout follows. */
  shift(about: readonly [number, number], by: Shift): void;
  /** Puts islands where they are said to be. */
  put(places: ReadonlyMap<string, IslandPlace>): void;
  /** Only the chosen one is in hand again. */
  only(): void;
  lock(on: boolean): void;
  /** Leaves the chosen island to the packer. */
  release(): void;
  /** Leaves all that are not locked to the packer. */
  packRest(): void;
}

const NONE: ReadonlySet<string> = new Set();

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
  const [also, setAlso] = useState<ReadonlySet<string>>(NONE);
  useEffect(() => {
    if (!on) setAlso(NONE);
  }, [on]);
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
      })
      .catch((error) => !gone && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
    };
  }, [session, parts]);

  // A layout of the document as it is has taken them all; what was undone or changed elsewhere holds no more.
  const places = document?.unwrap.places;
  const settled = fresh && known?.of === parts;
  // While a layout with other places but the same islands takes the place of this one, what is known of these holds on.
  const lasting = useRef<{ cut: string; islands: Known['islands']; key: string | null } | null>(null);
  const cutSeen = useRef('');
  useEffect(() => {
    if (!settled && places !== said.current) lasting.current = null;
    if (settled || places !== said.current) setMoved((m) => (m.size > 0 ? new Map() : m));
  }, [settled, places]);
  useEffect(() => {
    const about = session.document;
    if (!settled || !known || !about) return;
    const cut = cutOf(about);
    // Cut otherwise, islands have other numbers.
    if (cutSeen.current !== cut) setAlso(NONE);
    cutSeen.current = cut;
    lasting.current = { cut, islands: known.islands, key: lasting.current?.key ?? null };
  }, [session, settled, known]);

  const owner = selected && document ? (sharers(document)[selected.part] ?? selected.part) : null;
  const island = selected?.island ?? -1;
  const key = on && owner !== null ? keyOf({ part: owner, island }) : null;
  const islands = known && known.of === parts ? known.islands : null;
  const there = useMemo(() => (islands ? new Map(islands.map((i) => [keyOf(i), i.place])) : null), [islands]);
  const locked = useMemo(() => lockedOf(known?.islands ?? [], known?.with, places), [known, places]);
  useEffect(() => {
    if (on && owner !== null) inHand.current = { part: owner, island };
    if (!on) inHand.current = null;
  }, [on, owner, island]);

  // Whatever order a layout, what is known of it and what is picked come in.
  useEffect(() => {
    const held = inHand.current;
    if (!on || !islands || selected || !held) return;
    if (islands.some((i) => i.part === held.part && i.island === held.island)) session.pickIsland(held.part, held.island);
  }, [session, on, islands, selected]);

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
  const now = useRef({ islands, moved, locked, key, also });
  now.current = { islands, moved, locked, key, also };
  if (lasting.current && key !== null) lasting.current.key = key;
  const inGroup = useCallback((k: string): boolean => {
    const { key: mine, also: with_, islands: all } = now.current;
    return k === (all ? mine : (lasting.current?.key ?? null)) || with_.has(k);
  }, []);
  /** The islands as they are known, or were until a moment ago. */
  const knownIslands = useCallback((): Known['islands'] | null => {
    const { current } = lasting;
    if (now.current.islands || !current || !session.document) return now.current.islands;
    return current.cut === cutOf(session.document) ? current.islands : null;
  }, [session]);
  const say = useCallback(
    (to: (key: string, place: IslandPlace) => IslandPlace | null) => {
      const { moved: since, locked: fast } = now.current;
      const all = knownIslands();
      if (!all) return;
      const list = all.flatMap((i) => {
        const place = { ...(since.get(keyOf(i)) ?? i.place), ...(fast.has(keyOf(i)) && { locked: true }) };
        return to(keyOf(i), place) ?? [];
      });
      session.dispatch({ type: 'islands.place', places: list });
      said.current = session.document?.unwrap.places;
    },
    [session, knownIslands],
  );
  const put = useCallback(
    (to: ReadonlyMap<string, IslandPlace>) => {
      say((k, p) => {
        const next = to.get(k);
        return next ? { ...next, ...(p.locked && { locked: true }) } : p;
      });
      const movedNow = new Map([...now.current.moved, ...to]);
      now.current = { ...now.current, moved: movedNow };
      setMoved(movedNow);
    },
    [say],
  );
  const shift = useCallback(
    (about: readonly [number, number], by: Shift) => {
      const { moved: since } = now.current;
      const mine = (knownIslands() ?? []).filter((i) => inGroup(keyOf(i)));
      if (mine.length > 0) put(new Map(mine.map((i) => [keyOf(i), shifted(since.get(keyOf(i)) ?? i.place, about, by)])));
    },
    [put, inGroup, knownIslands],
  );
  const lock = useCallback(
    (to: boolean) =>
      say((k, p) => {
        const { locked: _, ...free } = p;
        return !inGroup(k) ? p : to ? { ...free, locked: true } : free;
      }),
    [say, inGroup],
  );
  const release = useCallback(() => say((k, p) => (inGroup(k) ? null : p)), [say, inGroup]);
  const packRest = useCallback(() => say((_, p) => (p.locked ? p : null)), [say]);
  const pick = useCallback(
    (part: string, number: number, more = false) => {
      const picked = keyOf({ part, island: number });
      const { key: before, also: with_ } = now.current;
      const rest = new Set(with_);
      if (more && picked === before) return;
      if (more && rest.has(picked)) {
        rest.delete(picked);
        return setAlso(rest);
      }
      // One of those in hand is held by another end: all stay in hand.
      if (more || rest.has(picked)) {
        rest.delete(picked);
        if (before && before !== picked) rest.add(before);
        setAlso(rest);
      } else if (picked !== before) setAlso(NONE);
      session.pickIsland(part, number);
    },
    [session],
  );
  const only = useCallback(() => setAlso(NONE), []);
  const place = key !== null ? (moved.get(key) ?? there?.get(key)) : undefined;
  const chosen =
    key !== null && owner !== null && place
      ? { part: owner, island, key, place, field: field?.of === parts && field?.key === key ? field.field : null }
      : null;
  const group = useMemo(() => (there ? new Set([...also].filter((k) => there.has(k) && k !== key)) : NONE), [also, there, key]);
  return { there, moved, locked, placed: places?.length ?? 0, also: group, chosen, pick, shift, put, only, lock, release, packRest };
}

/** What islands are cut by: the layout’s name but for where they are put. */
function cutOf(document: AssetDocument): string {
  const { places: _, ...choices } = document.unwrap;
  return nameOf({ ...document, unwrap: choices }, 'unwrap');
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
