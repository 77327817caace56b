import { describe, expect, it } from 'vitest';
import { asset } from '../../test/assets';
import { type AssetState, type KeptBeside, preflight } from './preflight';
import { specSheet } from './spec-sheet';

const state = (kept?: KeptBeside): AssetState => ({
  document: asset([]),
  findings: [],
  ledger: null,
  fresh: { form: false, unwrap: false, bake: false, surface: false, render: false },
  layout: null,
  bake: null,
  surface: null,
  render: null,
  kept,
});
const kept: KeptBeside = {
  work: [
    { stage: 'Form', minutes: 95.4 },
    { stage: 'Unwrap', minutes: 7.25 },
    { stage: 'Bake', minutes: 0.2 },
  ],
  machineMinutes: 3.5,
  snags: [
    { words: 'Lid’s <edge>', minutes: 20 },
    { words: 'Hinge', minutes: 5 },
  ],
  advice: [
    { said: '16 px of padding is usual at 2,048 px.', did: 'padding 16' },
    { said: '420 triangles over the limit.', did: 'counts solved to 6,000' },
    { said: '420 triangles over the limit.', did: 'counts solved to 5,600' },
  ],
};

describe('what was kept beside a piece', () => {
  it('open snags are counted before anything goes out, and hold nothing back', () => {
    const line = preflight(state(kept)).find((l) => l.id === 'snags');
    expect(line).toMatchObject({ level: 'near', sentence: '2 snags are open, 25 min: Lid’s <edge> and others.' });
    expect(preflight(state({ ...kept, snags: kept.snags.slice(1) })).find((l) => l.id === 'snags')?.sentence).toBe(
      '1 snag is open, 5 min: Hinge.',
    );
    expect(preflight(state()).some((l) => l.id === 'snags')).toBe(false);
  });
  it('the spec sheet says what it took in minutes, stages nobody was counted at left out, and what was left for later', () => {
    const page = specSheet(state(kept), null, [], null, '2 December 2026');
    expect(page).toContain('<tr><td>Form</td><td>95 min</td></tr><tr><td>Unwrap</td><td>7.3 min</td></tr>');
    expect(page).toContain('<td>Work together</td><td>103 min</td>');
    expect(page).toContain('<td>The machine</td><td>3.5 min</td>');
    expect(page).not.toContain('<td>Bake</td>');
    expect(page).toContain('Lid’s &#60;edge&#62;');
    // Taken twice it is said once, with what came of it last.
    expect(page).toContain('<td>16 px of padding is usual at 2,048 px.</td><td>padding 16</td>');
    expect(page).toContain('<td>420 triangles over the limit.</td><td>counts solved to 5,600, 2 times</td>');
    expect(specSheet(state(), null, [], null, 'today')).not.toContain('What it took');
  });
});
