import { figure } from '@wellmorph/core/units/lengths';

/** How long something will take, as far as that can be told: `4 s`, `63 s`, `12.6 min`, `2.5 h`. */
export const inTime = (seconds: number): string =>
  seconds < 90
    ? `${figure(Math.max(1, seconds), 0)} s`
    : seconds < 5400
      ? `${figure(seconds / 60, 1)} min`
      : `${figure(seconds / 3600, 1)} h`;

/** How long something took: short times to a tenth. */
export const tookTime = (seconds: number): string => (seconds < 10 ? `${figure(seconds, 1)} s` : inTime(seconds));

/** What is left, counting down: `4 s`, `1:05`. */
export function countdown(seconds: number): string {
  const s = Math.max(1, Math.round(seconds));
  return s < 60 ? `${s} s` : `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`;
}

/** So many days, in words. */
export const daysInWords = (days: number): string => `${days} ${days === 1 ? 'day' : 'days'}`;
