import { createHash } from 'node:crypto';
import ical, { ICalCalendarMethod, ICalEventTransparency } from 'ical-generator';
import type { Plan } from './plan';

/** A day of the calendar at its UTC midnight: written as a date alone, so that no zone and no change of the clocks moves it. */
const at = (day: string): Date => new Date(`${day}T00:00:00Z`);
const after = (day: string): Date => new Date(at(day).getTime() + 86_400_000);
const minutes = (m: number): string => (m >= 90 ? `${(m / 60).toFixed(1)} h` : `${Math.max(1, Math.round(m))} min`);
const uid = (words: string): string => `${createHash('sha256').update(words).digest('hex').slice(0, 32)}@wellmorph`;

/**
 * The plan as an iCalendar (RFC 5545): what is due, and on which days the machine runs by itself for what. All of it whole days. Identifiers
 * stay the same from one time to the next, so that a calendar that reads it again replaces what it has.
 *
 * @param now the moment it is made
 */
export function calendarOf(plan: Plan, now: Date): string {
  const calendar = ical({ name: 'Wellmorph plan', prodId: { company: 'Wellmorph', product: 'Plan' }, method: ICalCalendarMethod.PUBLISH });
  for (const row of plan.rows) {
    const busy = row.fits === false ? 'won’t be ready in time' : row.ready ? `ready on ${row.ready}` : 'no time is planned for it';
    if (row.due)
      calendar.createEvent({
        id: uid(`due ${row.id}`),
        stamp: now,
        start: at(row.due),
        end: after(row.due),
        allDay: true,
        summary: `Due: ${row.name}`,
        description: `${minutes(row.work)} of work and ${minutes(row.machine)} of the machine are left; ${busy}.`,
        transparency: ICalEventTransparency.TRANSPARENT,
      });
    for (const share of row.shares)
      if (share.machine > 0)
        calendar.createEvent({
          id: uid(`machine ${row.id} ${share.day}`),
          stamp: now,
          start: at(share.day),
          end: after(share.day),
          allDay: true,
          summary: `Machine: ${row.name}, ${minutes(share.machine)}`,
          transparency: ICalEventTransparency.TRANSPARENT,
        });
  }
  // Every line has its end, the last one too (3.1).
  return `${calendar.toString().replace(/(\r\n)+$/, '')}\r\n`;
}
