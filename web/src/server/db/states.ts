import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { type AssetDocument, upgradeDocument } from '@wellmorph/core/pipeline/document';
import { namesOfAll } from '@wellmorph/core/pipeline/results';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { publish } from '../events';
import { assetState } from './assets';
import { database } from './client';
import { states } from './schema';

/** A state of a piece under a name. */
export interface NamedState {
  id: string;
  name: string;
  thumbnail: string | null;
  at: string;
}

export async function statesOf(assetId: string): Promise<NamedState[]> {
  const db = await database();
  const list = await db
    .select({ id: states.id, name: states.name, thumbnail: states.thumbnail, at: states.at })
    .from(states)
    .where(and(eq(states.assetId, assetId), isNull(states.removedAt)))
    .orderBy(desc(states.at));
  return list.map((s) => ({ ...s, at: s.at.toISOString() }));
}

/** Keeps the piece as it stands under a name; results of a named state stay stored. @throws InputError where the name is taken */
export async function nameState(assetId: string, name: string): Promise<NamedState> {
  const { document, thumbnail } = await assetState(assetId);
  const db = await database();
  if ((await statesOf(assetId)).some((s) => s.name === name))
    throw new InputError('state/taken', `This piece has a state called “${name}” already; choose another name.`);
  const [made] = await db
    .insert(states)
    .values({ id: randomUUID(), assetId, name, snapshot: document, names: namesOfAll(document), thumbnail })
    .returning();
  publish({ kind: 'trial', asset: assetId });
  return { id: made.id, name, thumbnail, at: made.at.toISOString() };
}

/** @throws InputError when it is not there */
export async function stateNamed(assetId: string, id: string): Promise<{ name: string; document: AssetDocument }> {
  const db = await database();
  const [found] = await db
    .select()
    .from(states)
    .where(and(eq(states.assetId, assetId), eq(states.id, id), isNull(states.removedAt)));
  if (!found) throw new InputError('state/missing', 'This named state is not there any more.');
  return { name: found.name, document: upgradeDocument(found.snapshot) };
}

/** Forgets a state, or has it back. @throws InputError when it is not there, or its name was given to another meanwhile */
export async function forgetState(assetId: string, id: string, forget: boolean): Promise<void> {
  const db = await database();
  const one = and(eq(states.assetId, assetId), eq(states.id, id));
  const [found] = await db.select({ name: states.name }).from(states).where(one);
  if (!found) throw new InputError('state/missing', 'This named state is not there any more.');
  if (!forget && (await statesOf(assetId)).some((s) => s.name === found.name && s.id !== id))
    throw new InputError('state/taken', `This piece has another state called “${found.name}” by now.`);
  await db
    .update(states)
    .set({ removedAt: forget ? new Date() : null })
    .where(one);
  publish({ kind: 'trial', asset: assetId });
}
