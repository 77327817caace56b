/** Hours of the day between which the queue works; from 22 to 6 is a night. Hours may have halves. */
export interface QueueHours {
  from: number;
  to: number;
}
/** How the queue is worked. */
export interface QueueChoices {
  order: 'asked' | 'due';
  /** Any hour when null. */
  hours: QueueHours | null;
  /** Held, so that the machine is free for who works at it. */
  held: boolean;
}
export const QUEUE: QueueChoices = { order: 'asked', hours: null, held: false };

/** Whether it may work at an hour of the day. */
export const isOpen = (hour: number, { from, to }: QueueHours): boolean =>
  from === to ? true : from < to ? hour >= from && hour < to : hour >= from || hour < to;

/** Hours until it may work, or until it may work no more: whichever comes next. */
export function untilTurn(hour: number, { from, to }: QueueHours): number {
  if (from === to) return 24;
  const next = isOpen(hour, { from, to }) ? to : from;
  return (next - hour + 24) % 24 || 24;
}
