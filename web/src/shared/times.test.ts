import { describe, expect, it } from 'vitest';
import { countdown, inTime, tookTime } from './times';

describe('times', () => {
  it('are said in a unit that suits, no finer than they are known', () => {
    expect([0.2, 4.4, 63, 89.4].map(inTime)).toEqual(['1 s', '4 s', '63 s', '89 s']);
    expect([90, 754, 5399].map(inTime)).toEqual(['1.5 min', '12.6 min', '90 min']);
    expect([5400, 36_000].map(inTime)).toEqual(['1.5 h', '10 h']);
  });
  it('that something took are said to a tenth where they are short', () => {
    expect([0.04, 4.23, 9.94, 10, 120].map(tookTime)).toEqual(['0 s', '4.2 s', '9.9 s', '10 s', '2 min']);
  });
  it('count down in whole seconds that never come to sixty', () => {
    expect([0, 0.7, 59.4, 59.6, 61, 119.7, 3599.6].map(countdown)).toEqual(['1 s', '1 s', '59 s', '1:00', '1:01', '2:00', '60:00']);
  });
});
