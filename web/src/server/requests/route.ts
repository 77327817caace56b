import 'reflect-metadata';
import { WellmorphError } from '@wellmorph/core/errors';
import { firstSentence } from '@wellmorph/core/pipeline/checked';
import { type ClassConstructor, plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { StaleError } from '../db/assets';

/** The largest JSON body, bytes. */
const LARGEST_BODY = 8_000_000;

export class RequestError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

type Context<P> = { params: Promise<P> };

/**
 * Wraps a route handler: refuses requests from pages elsewhere, and turns errors into one sentence with a code.
 */
export function route<P = Record<string, never>>(work: (request: Request, params: P) => Promise<Response>) {
  return async (request: Request, context: Context<P>): Promise<Response> => {
    try {
      checkOrigin(request);
      return await work(request, await context.params);
    } catch (error) {
      return failure(error);
    }
  };
}

function failure(error: unknown): Response {
  if (error instanceof StaleError)
    return Response.json({ code: 'asset/stale', message: error.message, version: error.version, since: error.since }, { status: 409 });
  if (error instanceof RequestError) return Response.json({ code: error.code, message: error.message }, { status: error.status });
  if (error instanceof WellmorphError)
    return Response.json(
      { code: error.code, message: error.message, figures: error.figures },
      { status: error.code.endsWith('/missing') ? 404 : 422 },
    );
  console.error(error);
  return Response.json({ code: 'server/unforeseen', message: 'Something went wrong on the server; nothing was changed.' }, { status: 500 });
}

/** A page elsewhere must not drive a local server: the Host is a local name (or the configured one), the Origin is ours. */
export function checkOrigin(request: Request): void {
  const host = request.headers.get('host') ?? '';
  const name = host.replace(/:\d+$/, '').replace(/^\[|\]$/g, '');
  const allowed = ['127.0.0.1', 'localhost', '::1', ...(process.env.WELLMORPH_HOSTS ?? '').split(',').filter(Boolean)];
  if (!allowed.includes(name))
    throw new RequestError(
      403,
      'request/host',
      'This server only answers under its own name; WELLMORPH_HOSTS names others it may answer under.',
    );
  const origin = request.headers.get('origin');
  const foreign = origin !== null && origin !== `http://${host}` && origin !== `https://${host}`;
  const site = request.headers.get('sec-fetch-site');
  if (foreign || site === 'cross-site') throw new RequestError(403, 'request/origin', 'Requests from other pages are refused.');
}

/** Reads at most `limit` bytes. */
export async function bodyBytes(request: Request, limit: number): Promise<Uint8Array<ArrayBuffer>> {
  const tooLarge = () =>
    new RequestError(413, 'request/large', `That is more than the ${Math.round(limit / 1e6)} MB that can be taken; nothing was stored.`);
  if (Number(request.headers.get('content-length') ?? 0) > limit) throw tooLarge();
  const reader = request.body?.getReader();
  if (!reader) return new Uint8Array(0);
  const chunks: Uint8Array[] = [];
  let total = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    total += value.length;
    if (total > limit) {
      await reader.cancel();
      throw tooLarge();
    }
    chunks.push(value);
  }
  const out = new Uint8Array(total);
  let at = 0;
  for (const c of chunks) {
    out.set(c, at);
    at += c.length;
  }
  return out;
}

/** A JSON body checked against a class. @throws RequestError 400 in one sentence */
export async function body<T extends object>(request: Request, kind: ClassConstructor<T>): Promise<T> {
  const bytes = await bodyBytes(request, LARGEST_BODY);
  let plain: unknown;
  try {
    plain = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes), (key, value) => {
      if (!isText(key) || (typeof value === 'string' && !isText(value))) throw new RangeError('no text');
      return value;
    });
  } catch (error) {
    if (error instanceof RangeError) throw new RequestError(400, 'request/text', 'The request holds characters that are no text.');
    throw new RequestError(400, 'request/json', 'The request is not whole JSON.');
  }
  return checked(plain, kind);
}

/** What an address asks for, checked against a class. @throws RequestError 400 in one sentence */
export const query = <T extends object>(request: Request, kind: ClassConstructor<T>): Promise<T> =>
  checked(Object.fromEntries(new URL(request.url).searchParams), kind);

/** What the database takes as text: no character 0, no half of a pair. */
const isText = (s: string): boolean => !s.includes('\0') && !/\p{Cs}/u.test(s);

export async function checked<T extends object>(plain: unknown, kind: ClassConstructor<T>): Promise<T> {
  if (!plain || typeof plain !== 'object' || Array.isArray(plain))
    throw new RequestError(400, 'request/shape', 'The request has the wrong shape.');
  const made = plainToInstance(kind, plain);
  const errors = await validate(made, { whitelist: true, forbidNonWhitelisted: true, forbidUnknownValues: true });
  if (errors.length > 0) throw new RequestError(400, 'request/shape', firstSentence(errors));
  return made;
}

/** A change that changes something. @throws RequestError 400 */
export function something<T extends object>(change: T): T {
  if (Object.values(change).every((v) => v === undefined))
    throw new RequestError(400, 'request/nothing', 'There is nothing to change in this request.');
  return change;
}
