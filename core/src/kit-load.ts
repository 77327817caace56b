import { kindOf } from './form/steps';
import type { DrawSvg, Kit } from './kit';
import { type AssetDocument, stepsOf } from './pipeline/document';
import type { Artwork } from './print/print';

/** Where whoever runs the core keeps the files its libraries need. */
export interface KitFiles {
  /** The bytes of the typeface, WOFF. */
  font(): Promise<ArrayBuffer>;
  /** The SVG library’s WebAssembly. */
  drawings(): Promise<ArrayBuffer>;
  /** Where the solids library's WebAssembly lies; beside its script when absent. */
  wasm?: string;
}

/** What the steps and prints of an asset need loaded. */
export function neededBy({ parts, prints = [] }: Pick<AssetDocument, 'parts' | 'prints'>): Set<keyof Kit> {
  return new Set([
    ...parts.flatMap((p) => stepsOf(p).flatMap((s) => (s.enabled ? (kindOf(s.kind).needs ?? []) : []))),
    ...prints.flatMap((p) => neededFor(p.artwork)),
  ]);
}
/** What an artwork is drawn with. */
export function neededFor(artwork: Artwork): (keyof Kit)[] {
  if (artwork.kind === 'picture') return artwork.mime === 'image/svg+xml' ? ['drawings'] : [];
  return artwork.kind === 'bars' ? ['drawings'] : ['drawings', 'font'];
}

/** Loads libraries once each, as they are asked for. */
export class KitLoader {
  private readonly kit: Kit = {};
  private readonly coming = new Map<keyof Kit, Promise<void>>();
  constructor(private readonly files: KitFiles) {}

  /** A kit with everything an asset's steps and prints need. */
  async for(document: AssetDocument): Promise<Kit> {
    await Promise.all([...neededBy(document)].map((what) => this.load(what)));
    return this.kit;
  }

  /** The same, with what could be loaded: steps that lack something say so themselves, and the rest of the piece stands. */
  async best(document: AssetDocument): Promise<Kit> {
    await Promise.allSettled([...neededBy(document)].map((what) => this.load(what)));
    return this.kit;
  }

  /** What has been loaded so far. */
  get loaded(): Kit {
    return this.kit;
  }

  load(what: keyof Kit): Promise<void> {
    let coming = this.coming.get(what);
    if (!coming) {
      coming = this.bring(what);
      this.coming.set(what, coming);
      // A file that could not be fetched is tried again the next time.
      coming.catch(() => this.coming.delete(what));
    }
    return coming;
  }

  private async bring(what: keyof Kit): Promise<void> {
    if (what === 'solids') {
      const { default: Module } = await import('manifold-3d/manifold');
      const { wasm } = this.files;
      const solids = await Module(wasm ? { locateFile: () => wasm } : undefined);
      solids.setup();
      this.kit.solids = solids;
    } else if (what === 'simplifier') {
      const { MeshoptSimplifier } = await import('meshoptimizer/simplifier');
      await MeshoptSimplifier.ready;
      this.kit.simplifier = MeshoptSimplifier;
    } else if (what === 'drawings') {
      const [{ initWasm, Resvg }, bytes] = await Promise.all([import('@resvg/resvg-wasm'), this.files.drawings()]);
      await initWasm(bytes);
      this.kit.drawings = drawingsOf(Resvg);
    } else {
      const [library, bytes] = await Promise.all([import('opentype.js'), this.files.font()]);
      // Its CommonJS build has everything under `default`.
      const parse = library.parse ?? (library as unknown as { default: typeof library }).default.parse;
      this.kit.font = parse(bytes);
    }
  }
}

function drawingsOf(Library: typeof import('@resvg/resvg-wasm').Resvg): DrawSvg {
  return (svg, width) => {
    // Typefaces of the machine have no say: the same drawing comes to the same pixels everywhere.
    const drawing = new Library(svg, { fitTo: { mode: 'width', value: width }, font: { loadSystemFonts: false } });
    const image = drawing.render();
    try {
      return { width: image.width, height: image.height, data: straight(image.pixels) };
    } finally {
      image.free();
      drawing.free();
    }
  };
}

/** Colours that were multiplied by alpha, as they are by themselves. */
function straight(data: Uint8Array): Uint8Array {
  for (let i = 0; i < data.length; i += 4) {
    const alpha = data[i + 3];
    if (alpha === 0 || alpha === 255) continue;
    for (let k = 0; k < 3; k++) data[i + k] = Math.min(255, Math.round((255 * data[i + k]) / alpha));
  }
  return data;
}
