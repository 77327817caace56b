import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { smallPiece } from '../../test/pieces';
import type { Plan } from './plan';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-plan-'));
process.env.WELLMORPH_DATA = dir;
const zone = process.env.TZ;

const { createAsset, editAsset, setDeleted } = await import('./db/assets');
const { closeDatabase } = await import('./db/client');
const { addSnag, listSnags, setSnag } = await import('./db/snags');
const { addSpent, allSpent, setSpent } = await import('./db/spent');
const { addTrial } = await import('./db/trials');
const { calendarOf } = await import('./calendar');
const { planNow, setPlan } = await import('./plan');

const DAY = '2026-12-02';
const rowOf = (plan: Plan, id: string) => plan.rows.find((r) => r.id === id)!;
let seed = 300;
const make = (name: string, deadline: string | null) => {
  const document = smallPiece(name, seed++);
  return createAsset({ ...document, brief: { ...document.brief, deadline } });
};

beforeAll(async () => {
  await planNow(DAY);
});
afterAll(async () => {
  process.env.TZ = zone;
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

/** A component of an iCalendar: its lines by name, with their parameters, and the components in it. */
interface Component {
  name: string;
  lines: { name: string; parameters: Record<string, string>; value: string }[];
  inside: Component[];
}

/** Reads an iCalendar by the grammar of RFC 5545, 3.1: contentline = name *(";" param) ":" value CRLF, folded at 75 octets. */
function readCalendar(text: string): Component {
  if (!text.endsWith('\r\n')) throw new Error('the last line has no end');
  for (const line of text.split('\r\n')) {
    if (/[\r\n]/.test(line)) throw new Error('a line ends otherwise than by CRLF');
    if (Buffer.byteLength(line) > 75) throw new Error(`a line of ${Buffer.byteLength(line)} octets`);
  }
  const unfolded = text
    .replace(/\r\n[ \t]/g, '')
    .split('\r\n')
    .slice(0, -1);
  const root: Component = { name: '', lines: [], inside: [] };
  const open = [root];
  for (const line of unfolded) {
    const found = /^([A-Za-z0-9-]+)((?:;[A-Za-z0-9-]+=(?:"[^"]*"|[^";:,]*)(?:,(?:"[^"]*"|[^";:,]*))*)*):(.*)$/s.exec(line);
    if (!found) throw new Error(`no content line: ${line}`);
    const [, name, parameters, raw] = found;
    if (name === 'BEGIN') {
      const made = { name: raw, lines: [], inside: [] };
      open.at(-1)?.inside.push(made);
      open.push(made);
    } else if (name === 'END') {
      if (open.pop()?.name !== raw) throw new Error(`END:${raw} ends something else`);
    } else
      open.at(-1)?.lines.push({
        name,
        parameters: Object.fromEntries([...parameters.matchAll(/;([^=;]+)=("[^"]*"|[^;]*)/g)].map((m) => [m[1], m[2]])),
        // Texts are escaped (3.3.11).
        value: raw.replace(/\\([\\;,nN])/g, (_, c: string) => (c.toLowerCase() === 'n' ? '\n' : c)),
      });
  }
  if (open.length !== 1) throw new Error('something is not ended');
  return root.inside[0];
}
const value = (c: Component, name: string) => c.lines.find((l) => l.name === name);

describe('the plan of the workshop', () => {
  it('has every piece with a date and without, what is left of each, and learns from nothing yet', async () => {
    const soon = await make('Rope fender', '2026-12-04');
    const never = await make('Net float', null);
    const plan = await planNow(DAY);
    expect(rowOf(plan, soon).due).toBe('2026-12-04');
    expect(rowOf(plan, never).fits).toBeNull();
    expect(plan.rows.map((r) => r.id).indexOf(soon)).toBeLessThan(plan.rows.map((r) => r.id).indexOf(never));
    expect(rowOf(plan, soon).stages.find((s) => s.stage === 'form')?.work.by).toBe('default');
  });
  it('time that is counted adds up, several pages at once; put right by hand, it is what was said', async () => {
    const id = await make('Sounding lead', null);
    await Promise.all([1, 2, 3, 4].map(() => addSpent(id, 'form', DAY, 300)));
    const minutes = async () => (await allSpent()).filter((s) => s.assetId === id).map((s) => [s.day, s.minutes]);
    expect(await minutes()).toEqual([[DAY, 20]]);
    const before = (await planNow(DAY)).spentToday;
    await setSpent(id, 'form', DAY, 12);
    expect(await minutes()).toEqual([[DAY, 12]]);
    expect(before - (await planNow(DAY)).spentToday).toBeCloseTo(8, 6);
    // What is counted after that is counted on top of it.
    await addSpent(id, 'form', DAY, 60);
    expect(await minutes()).toEqual([[DAY, 13]]);
    // No day is longer than a day, however often it is handed in.
    for (let k = 0; k < 30; k++) await addSpent(id, 'bake', DAY, 3600);
    expect((await allSpent()).find((s) => s.assetId === id && s.stage === 'bake')?.minutes).toBe(1440);
    await setSpent(id, 'bake', DAY, 0);
  });
  it('snags are counted until they are done, and are there after a year', async () => {
    const id = await make('Oilskin hook', '2026-12-10');
    const left = async (day: string) => rowOf(await planNow(day), id).work;
    const before = await left(DAY);
    const { id: snag } = await addSnag(id, { words: 'Screw heads', minutes: 25 });
    expect((await left(DAY)) - before).toBeCloseTo(25, 6);
    const later = await planNow('2027-12-02');
    expect(rowOf(later, id)).toMatchObject({ snagMinutes: 25, fits: false });
    expect((await listSnags(id))[0].words).toBe('Screw heads');
    await setSnag(snag, { done: true });
    expect(await left(DAY)).toBeCloseTo(before, 6);
  });
  it('a date that doesn’t fit, and a cut that makes it fit once it is taken', async () => {
    const id = await make('Semaphore arm', DAY);
    await setPlan({ order: [id], hours: { week: [24, 24, 24, 24, 24, 24, 24], off: [], machine: 1 } });
    const { assetState } = await import('./db/assets');
    await addTrial(id, {
      stage: 'bake',
      title: 'x',
      settings: { size: 4096, samples: 1 },
      figures: {},
      milliseconds: 80 * 60_000,
      thumbnail: null,
      resultName: null,
      snapshot: (await assetState(id)).document,
      forecastSeconds: null,
    });
    await editAsset(id, 1, {
      type: 'brief.set',
      patch: { limits: { ...(await assetState(id)).document.brief.limits, textureSize: 4096 } },
    });
    const plan = await planNow(DAY);
    const row = rowOf(plan, id);
    expect(row.fits).toBe(false);
    const cut = row.cuts.find((c) => c.id === 'size')!;
    expect(cut.fits).toBe(true);
    await editAsset(id, row.version, cut.command!);
    expect(rowOf(await planNow(DAY), id).fits).toBe(true);
  });
  it('hours that no day has change nothing; a piece that is deleted is out of the plan, and the order doesn’t mind', async () => {
    await expect(setPlan({ hours: { week: [25, 0, 0, 0, 0, 0, 0], off: [], machine: 1 } })).rejects.toThrow('0 to 24');
    expect((await planNow(DAY)).hours.machine).toBe(1);
    const id = await make('Rudder pin', '2026-12-20');
    await setPlan({ order: [id] });
    await setDeleted(id, true);
    const plan = await planNow(DAY);
    expect(plan.order).toEqual([id]);
    expect(plan.rows.some((r) => r.id === id)).toBe(false);
    await setDeleted(id, false);
    expect((await planNow(DAY)).rows[0].id).toBe(id);
    await setPlan({ order: [] });
  });
});

describe('the plan as a calendar', () => {
  it('is one by the grammar of RFC 5545, whatever stands in a name, and has what is due and the machine’s runs', async () => {
    const name = 'Bell; “tide”, port\\side: a very long name indeed, so that its line has to be folded — 灯塔的灯 🏮';
    const id = await make(name, '2026-12-08');
    const plan = await planNow(DAY);
    const text = calendarOf(plan, new Date('2026-12-02T09:30:00Z'));
    const calendar = readCalendar(text);
    expect(calendar.name).toBe('VCALENDAR');
    expect(value(calendar, 'VERSION')?.value).toBe('2.0');
    expect(value(calendar, 'PRODID')).toBeDefined();
    const events = calendar.inside.filter((c) => c.name === 'VEVENT');
    const due = events.find((e) => value(e, 'SUMMARY')?.value === `Due: ${name}`)!;
    expect(value(due, 'DTSTART')).toMatchObject({ value: '20261208', parameters: { VALUE: 'DATE' } });
    expect(value(due, 'DTEND')?.value).toBe('20261209');
    expect(value(due, 'DTSTAMP')?.value).toBe('20261202T093000Z');
    expect(events.some((e) => value(e, 'SUMMARY')?.value.startsWith(`Machine: ${name}`))).toBe(
      rowOf(plan, id).shares.some((s) => s.machine > 0),
    );
    const uids = events.map((e) => value(e, 'UID')?.value);
    expect(new Set(uids).size).toBe(uids.length);
    // Read again, a calendar replaces what it has.
    expect(readCalendar(calendarOf(await planNow(DAY), new Date())).inside.map((e) => value(e, 'UID')?.value)).toEqual(uids);
  });
  it.each(['America/St_Johns', 'Pacific/Kiritimati', 'Europe/Berlin', 'Pacific/Pago_Pago'])(
    'its days are the same in %s, over a change of the clocks too',
    async (where) => {
      process.env.TZ = where;
      const id = await make(`Clock ${where}`, '2026-10-25');
      const spring = await make(`Spring ${where}`, '2027-03-28');
      const { inside } = readCalendar(calendarOf(await planNow('2026-10-20'), new Date()));
      const days = (name: string) => {
        const event = inside.find((e) => value(e, 'SUMMARY')?.value === `Due: ${name}`)!;
        return [value(event, 'DTSTART')?.value, value(event, 'DTEND')?.value];
      };
      expect(days(`Clock ${where}`)).toEqual(['20261025', '20261026']);
      expect(days(`Spring ${where}`)).toEqual(['20270328', '20270329']);
      await setDeleted(id, true);
      await setDeleted(spring, true);
      process.env.TZ = zone;
    },
  );
});
