import { briefFor } from '../src/brief/brief';
import type { Step } from '../src/form/steps/index';
import { type AssetDocument, newDocument, type Part } from '../src/pipeline/document';

/** A part called after its id, made by steps. */
export const part = (id: string, steps: Step[], more: Partial<Part> = {}): Part => ({
  id,
  name: id,
  role: 'body',
  material: null,
  move: [0, 0, 0],
  turnDegrees: [0, 0, 0],
  shape: { kind: 'recipe', steps },
  weight: 1,
  declaredOpen: false,
  ...more,
});

export const asset = (parts: Part[], more: Partial<AssetDocument> = {}): AssetDocument => ({
  ...newDocument('test', briefFor('game')),
  parts,
  ...more,
});

/** For assets whose parts are all made by steps. */
export const none = (): never => {
  throw new Error('recipes need no stored mesh');
};
