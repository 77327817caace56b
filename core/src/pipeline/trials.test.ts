import { describe, expect, it } from 'vitest';
import { briefFor } from '../brief/brief';
import { newDocument } from './document';
import { handoffTrial } from './trials';

describe('an archive among the trials', () => {
  const document = structuredClone(newDocument('Chest', briefFor('game')));
  const files = [{ bytes: 1_500_000 }, { bytes: 250_000 }];

  it('says what went in, by which conventions, how large it is, and what its further levels took', () => {
    document.handoff.include = { glb: true, obj: false, textures: false, layout: false, picture: false, sheet: true, levels: true };
    document.handoff.levels = 2;
    expect(handoffTrial(document, files, 2.5)).toMatchObject({
      title: 'GLB, spec sheet, further levels',
      settings: { goesIn: 'GLB, spec sheet, further levels', furtherLevels: 2, size: document.brief.limits.textureSize, variants: 0 },
      figures: { files: 2, megabytes: 1.75, levelSeconds: 2.5 },
    });
  });
  it('without further levels there is no time of theirs, however many were chosen before', () => {
    document.handoff.include = { ...document.handoff.include, levels: false };
    const { settings, figures } = handoffTrial(document, files, 0);
    expect(settings.furtherLevels).toBe(0);
    expect(figures).toEqual({ files: 2, megabytes: 1.75 });
  });
});
