import { kindOf } from './form/steps';
import type { Kit } from './kit';
import { type AssetDocument, stepsOf } from './pipeline/document';

/** Where whoever runs the core keeps the files its libraries need. */
export interface KitFiles {
  /** The bytes of the typeface, WOFF. */
  font(): Promise<ArrayBuffer>;
  /** Where the solids library's WebAssembly lies; beside its script when absent. */
  wasm?: string;
}

/** What the steps of an asset need loaded. */
export function neededBy(document: AssetDocument): Set<keyof Kit> {
  return new Set(document.parts.flatMap((p) => stepsOf(p).flatMap((s) => (s.enabled ? (kindOf(s.kind).needs ?? []) : []))));
}

/** Loads libraries once each, as they are asked for. */
export class KitLoader {
  private readonly kit: Kit = {};
  private readonly coming = new Map<keyof Kit, Promise<void>>();
  constructor(private readonly files: KitFiles) {}

  /** A kit with everything an asset's steps need. */
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
    } else {
      const [library, bytes] = await Promise.all([import('opentype.js'), this.files.font()]);
      // Its CommonJS build has everything under `default`.
      const parse = library.parse ?? (library as unknown as { default: typeof library }).default.parse;
      this.kit.font = parse(bytes);
    }
  }
}
