import { StageError } from '../errors';
import { decodePng, encodePng } from '../image/png';
import type { CamePictures } from '../io/glb-came';
import { pictureSize } from '../io/head';
import { backdrop } from '../light/backdrop';
import { fullRadiance } from '../light/exposure';
import { type Background, GREY_CARD, lightRig, type Power, type SolvedRig, solvePower, subjectOf } from '../light/rig';
import { placedBounds } from '../mesh/measures';
import { attribute, triangleCount } from '../mesh/polymesh';
import { solvePhoto } from '../photo/solve';
import { type Allocate, PRIVATE } from '../rays/tree';
import { CameLooks, isAtHand, laidFor } from '../render/came';
import { clippedShare, type Development, develop, emptyFilm, type Film, heldBackShare, type Picture, traceTile } from '../render/film';
import type { Measured } from '../render/forecast';
import { buildScene, plainSceneMaterial, type Scene, type SceneMaterial, type SceneTexture } from '../render/scene';
import { type Added, type Begun, type Crew, traceFilm } from '../render/schedule';
import { PathTracer } from '../render/tracer';
import { azimuthOf, nextStop, photographedShot, SHOT_DEFAULTS, type SolvedShot, solveShot } from '../shot/shot';
import { QUIET, type Task } from '../task';
import { millimetres } from '../units/lengths';
import { keepsLayouts } from './came';
import { type AssetDocument, deliveredParts } from './document';
import { assetBounds, type PartMesh } from './form';
import { outlinePoints } from './outline';

/** PNG bytes of the maps a picture uses; what is missing is drawn from the material's own numbers. */
export interface SetFiles {
  baseColour?: Uint8Array;
  orm?: Uint8Array;
  /** 8 bits, Y up. */
  normal?: Uint8Array;
  /** Of the composed set, where layers change them. */
  coat?: Uint8Array;
  clear?: Uint8Array;
  /** Pictures that came with files, by blob: what is textured with them, and still laid out for them, is drawn so whatever the set says. */
  pictures?: CamePictures;
  /** The photograph that the shot stands in, as it is stored. */
  photo?: Uint8Array;
}

const NO_PICTURES: CamePictures = new Map();

/** Light chanced upon may add at most this many times what fills the picture. */
const CLAMP = 2;

/** Shot and light at the piece’s real size. */
export interface SolvedStage {
  shot: SolvedShot;
  rig: SolvedRig;
  development: Development;
  /** The watts that would bring the grey card to its reading at this exposure. */
  wantedPower: Power;
  /** The shutter that would, with the lamps as they are, s. */
  wantedSeconds: number;
  /** Of the sphere round the piece, mm. */
  radius: number;
}

/**
 * Shot and light for the piece at its real size. Lamps have the watts they were given. While they were given none, they have those that
 * are right for the usual shutter and the aperture the depth asks for, so that what is changed on the camera shows in the picture.
 *
 * @throws StageError when there is nothing to light
 */
export function solveStage(document: AssetDocument, parts: readonly PartMesh[]): SolvedStage {
  if (parts.length === 0 || parts.every((p) => triangleCount(p.mesh) === 0))
    throw new StageError('light/empty', 'There is no surface to light yet; form the piece first.');
  const shot = shotOf(document, parts);
  const subject = subjectOf(assetBounds(parts));
  const { rig, shot: camera } = document;
  const full = fullRadiance({ aperture: shot.aperture, seconds: camera.seconds, iso: camera.iso }, shot.magnification);
  const usual = { aperture: nextStop(shot.solved), seconds: SHOT_DEFAULTS.seconds, iso: SHOT_DEFAULTS.iso };
  const azimuth = camera.photo ? azimuthOf(shot.camera) : camera.azimuth;
  const solved = (at: number) => solvePower(rig, subject, azimuth, at);
  const lit = lightRig(rig, subject, azimuth, rig.power ?? solved(fullRadiance(usual, shot.magnification)), full);
  return {
    shot,
    rig: lit,
    wantedPower: solved(full),
    wantedSeconds: (camera.seconds * GREY_CARD) / lit.cardReading,
    development: { full, tone: document.shot.tone, background: groundOf(document), colour: document.rig.colour },
    radius: subject.radius,
  };
}

/** The shot as it is framed for the piece, or through the photograph it is seen with. */
function shotOf(document: AssetDocument, parts: readonly PartMesh[]): SolvedShot {
  const { shot } = document;
  if (shot.photo === undefined) return solveShot(shot, outlinePoints(parts));
  const photo = document.photos?.find((p) => p.id === shot.photo);
  if (!photo)
    throw new StageError('light/photo', 'The photograph that the shot is seen through is gone; choose another, or frame the piece.');
  const part = parts.find((p) => p.id === photo.part);
  if (!part)
    throw new StageError('light/photo', `On “${photo.name}” no part of the piece stands: choose in Form whose corners are marked.`);
  return photographedShot(shot, solvePhoto(photo, placedBounds(part.mesh, part.placements[0])).camera, outlinePoints(parts));
}

/** What the piece stands on: before a photograph only its shadow falls on it. */
const groundOf = ({ shot, rig }: Pick<AssetDocument, 'rig' | 'shot'>): Background => (shot.photo === undefined ? rig.background : 'colour');

const texture = (png: Uint8Array): SceneTexture => {
  const p = decodePng(png);
  return { width: p.width, height: p.height, channels: p.channels as 3 | 4, data: p.data as Uint8Array };
};

/** The asset on its backdrop under its rig, seen by its shot. */
export function stageScene(
  document: AssetDocument,
  parts: readonly PartMesh[],
  set: SetFiles,
  solved: SolvedStage,
  allocate: Allocate = PRIVATE,
): Scene {
  const textures: SceneTexture[] = [];
  const add = (png?: Uint8Array) => (png ? textures.push(shared(texture(png), allocate)) - 1 : -1);
  const maps = {
    colourMap: add(set.baseColour),
    ormMap: add(set.orm),
    normalMap: add(set.normal),
    coatMap: add(set.coat),
    clearMap: add(set.clear),
  };
  const laid = parts.every((p) => attribute(p.mesh, 'uv', 'corner'));
  const own: SceneTexture[] = [];
  const { pictures: all = NO_PICTURES } = set;
  // One of a kind that can’t be read leaves its materials their plain numbers: the rest is drawn all the same.
  const pictures: CamePictures = new Map([...all].filter(([, p]) => pictureSize(p.bytes) !== null));
  const looks = new CameLooks(pictures, own);
  const came = document.materials.map((m) => (keepsLayouts(document) && isAtHand(m, pictures) ? looks.of(m) : null));
  const from = textures.length;
  textures.push(...own.map((t) => shared(t, allocate)));
  const moved = (m: SceneMaterial): SceneMaterial => {
    const at = (map: number) => (map < 0 ? map : map + from);
    return { ...m, colourMap: at(m.colourMap), ormMap: at(m.ormMap), normalMap: at(m.normalMap) };
  };
  const materials = document.materials.map((m): SceneMaterial => ({ ...plainSceneMaterial(m), ...(laid && maps) }));
  const cameAt = came.map((m) => (m ? materials.push(moved(m)) - 1 : -1));
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  return sceneOf(
    document,
    parts.map((part) => {
      const material = document.materials.findIndex((m) => m.id === chosen.get(part.id));
      const texturing = cameAt[material] >= 0 ? document.materials[material].texturing : undefined;
      const mesh = texturing && laidFor(part.mesh, texturing);
      return mesh ? { part: { ...part, mesh }, material: cameAt[material] } : { part, material };
    }),
    materials,
    textures,
    solved,
    allocate,
  );
}

/** A scene from parts whose materials are already the tracer's own. */
export function sceneOf(
  document: Pick<AssetDocument, 'rig' | 'shot'>,
  parts: readonly { part: PartMesh; material: number }[],
  materials: readonly SceneMaterial[],
  textures: readonly SceneTexture[],
  solved: SolvedStage,
  allocate: Allocate = PRIVATE,
): Scene {
  const subject = subjectOf(assetBounds(parts.map((p) => p.part)));
  return buildScene(
    {
      parts: parts.map(({ part, material }) => ({ mesh: part.mesh, placements: part.placements, material })),
      materials,
      textures,
      lamps: solved.rig.lamps,
      environment: solved.rig.environment,
      backdrop: backdrop(subject, document.shot.photo === undefined ? document.shot.azimuth : azimuthOf(solved.shot.camera)),
      backdropColour: document.rig.colour,
      background: groundOf(document),
      camera: solved.shot.camera,
      clamp: CLAMP * solved.development.full,
    },
    allocate,
  );
}

function shared(t: SceneTexture, allocate: Allocate): SceneTexture {
  const data = new Uint8Array(allocate(t.data.length));
  data.set(t.data);
  return { ...t, data };
}

/** What is kept of a picture. */
export interface RenderFigures {
  width: number;
  height: number;
  /** Per pixel, both halves. */
  samples: number;
  noise: number;
  seconds: number;
  raysPerSample: number;
  clippedShare: number;
  heldBackShare: number;
  measured: Measured[];
}

export const figuresOf = (film: Film, seconds: number, rays: number, measured: Measured[], picture: Picture): RenderFigures => ({
  width: film.width,
  height: film.height,
  samples: 2 * film.samples,
  noise: measured.at(-1)?.noise ?? 0,
  seconds,
  raysPerSample: rays / Math.max(1, 2 * film.samples * film.width * film.height),
  clippedShare: clippedShare(picture),
  heldBackShare: heldBackShare(film),
  measured,
});

export const picturePng = (p: Picture): Uint8Array => encodePng({ width: p.width, height: p.height, channels: 4, depth: 8, data: p.data });

/** A picture that ends at a noise never takes more samples. */
export const MOST_SAMPLES = 65536;

/** Keeps a picture as it grows, so that it can go on from there. */
export interface FilmKeeper {
  /** Puts back what was kept of it. @returns how far it had got, null where nothing is kept */
  begun(film: Film): Promise<Begun | null>;
  added(film: Film, added: Added): void;
  passed(measured: readonly Measured[]): void;
}

/** A whole picture on this thread. `clock` gives seconds. */
export async function renderPicture(
  scene: Scene,
  development: Development,
  options: { width: number; height: number; samples: number; seed: number; noise?: number },
  clock: () => number,
  task: Task = QUIET,
  keeper?: FilmKeeper,
): Promise<{ picture: Picture; figures: RenderFigures }> {
  const tracer = new PathTracer(scene);
  const film = emptyFilm(options.width, options.height);
  const crew: Crew = {
    size: 1,
    hire: () => ({
      async trace(pass) {
        const before = tracer.rays;
        const halves = traceTile(tracer, pass, task.cancelled);
        return { halves, rays: tracer.rays - before };
      },
      dismiss() {},
    }),
  };
  const begun = (await keeper?.begun(film)) ?? undefined;
  const { measured, rays, seconds } = await traceFilm(film, crew, {
    ...options,
    development,
    clock,
    task,
    begun,
    onTile: (added) => keeper?.added(film, added),
    onPass: (_, all) => keeper?.passed(all),
  });
  const picture = develop(film, development);
  return { picture, figures: figuresOf(film, seconds, rays, measured, picture) };
}

/** The picture a document asks for, from the parts and textures it is drawn with, on this thread. `clock` gives seconds. */
export async function drawPicture(
  document: AssetDocument,
  parts: readonly PartMesh[],
  set: SetFiles,
  clock: () => number,
  task: Task = QUIET,
  keeper?: FilmKeeper,
): Promise<{ png: Uint8Array; figures: RenderFigures }> {
  const solved = solveStage(document, parts);
  const { shot, render } = document;
  // Only a browser unpacks a photograph upright, whatever its camera wrote.
  if (shot.photo !== undefined && !solved.development.behind)
    throw new StageError('render/photo', 'A picture that stands in a photograph is drawn on the page, not in the queue.');
  const { picture, figures } = await renderPicture(
    stageScene(document, parts, set, solved),
    solved.development,
    {
      width: shot.widthPx,
      height: shot.heightPx,
      samples: render.until === 'samples' ? render.samples : MOST_SAMPLES,
      seed: render.seed,
      ...(render.until === 'noise' && { noise: render.noise }),
    },
    clock,
    task,
    keeper,
  );
  return { png: picturePng(picture), figures };
}

/** One thing looked at before a long picture. */
export interface Check {
  id: 'materials' | 'light' | 'focus' | 'size' | 'memory' | 'textures';
  level: 'ok' | 'near' | 'over';
  sentence: string;
}

/** Bytes of a picture's film: two halves of nine floats, and the picture itself. */
export const filmBytes = (width: number, height: number): number => width * height * (2 * 9 * 4 + 4);

/** Most that a film may take, bytes. */
const MEMORY = 1.5e9;

/** Is it safe to start? What would spoil a long picture, looked at first. */
export function safeToStart(document: AssetDocument, parts: readonly PartMesh[], solved: SolvedStage, set: { composed: boolean }): Check[] {
  const checks: Check[] = [];
  const bare = deliveredParts(document).filter((p) => !document.materials.some((m) => m.id === p.material));
  checks.push(
    bare.length > 0
      ? { id: 'materials', level: 'over', sentence: `No material: ${bare.map((p) => p.name).join(', ')}. They would be drawn grey.` }
      : { id: 'materials', level: 'ok', sentence: 'Every part has a material.' },
  );
  checks.push(
    set.composed
      ? { id: 'textures', level: 'ok', sentence: 'The composed set is fresh.' }
      : {
          id: 'textures',
          level: 'near',
          sentence: 'There is no fresh set: parts are drawn in their plain materials, without layers or normal maps.',
        },
  );
  const reading = solved.rig.cardReading;
  const off = Math.log2(reading / GREY_CARD);
  checks.push({
    id: 'light',
    // A third of a stop shows to nobody, two are lost in the highlights or the shadows: common practice, no source.
    level: Math.abs(off) < 0.34 ? 'ok' : Math.abs(off) < 2 ? 'near' : 'over',
    sentence: `A grey card at the piece reads ${reading.toFixed(3)} of full${Math.abs(off) < 0.34 ? '' : `, ${Math.abs(off).toFixed(1)} stops ${off > 0 ? 'over' : 'under'}`}; ${solved.rig.cardIrradiance.toFixed(1)} W/m² arrive.`,
  });
  const { shot } = solved;
  const whole = shot.focus.near <= shot.nearest + 1e-6 && shot.focus.far >= shot.farthest - 1e-6;
  const inside = shot.focus.at >= shot.nearest && shot.focus.at <= shot.farthest;
  checks.push({
    id: 'focus',
    level: whole ? 'ok' : inside ? 'near' : 'over',
    sentence: whole
      ? `All of the piece is in focus at f/${shot.aperture}.`
      : inside
        ? `Sharp from ${millimetres(shot.focus.near, 0)} to ${Number.isFinite(shot.focus.far) ? millimetres(shot.focus.far, 0) : '∞'}; the piece reaches from ${millimetres(shot.nearest, 0)} to ${millimetres(shot.farthest, 0)}.`
        : 'The focus is not on the piece.',
  });
  const { widthPx, heightPx } = document.shot;
  checks.push(
    widthPx * heightPx > 40e6
      ? { id: 'size', level: 'over', sentence: `${widthPx} × ${heightPx} px is more than 40 million pixels.` }
      : { id: 'size', level: 'ok', sentence: `${widthPx} × ${heightPx} px.` },
  );
  const bytes = filmBytes(widthPx, heightPx) + 160 * parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
  checks.push({
    id: 'memory',
    level: bytes > MEMORY ? 'over' : bytes > MEMORY / 2 ? 'near' : 'ok',
    sentence: `About ${(bytes / 1e6).toFixed(0)} MB of memory.`,
  });
  return checks;
}
