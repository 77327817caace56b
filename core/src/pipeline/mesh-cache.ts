import { StepCache } from '../form/recipe';
import type { PolyMesh } from '../mesh/polymesh';

/** Stored meshes kept opened. */
const OPENED = 24;

/**
 * What was worked out from meshes that have not changed since: kept by the mesh itself, so that it goes when the mesh goes.
 * A worker holds one; an edit then costs what it touches, not the whole asset.
 */
export class MeshCache {
  readonly steps = new StepCache();
  private readonly kept = new WeakMap<PolyMesh, Map<string, unknown>>();
  private readonly pairs = new WeakMap<PolyMesh, WeakMap<PolyMesh, Map<string, unknown>>>();
  private readonly numbers = new WeakMap<PolyMesh, number>();
  private next = 1;
  private readonly opened = new Map<string, PolyMesh>();

  /** @param what names what is worked out, and everything but the mesh that it depends on */
  of<T>(mesh: PolyMesh, what: string, make: () => T): T {
    return remembered(into(this.kept, mesh), what, make);
  }
  /** The same for two meshes together. */
  ofPair<T>(a: PolyMesh, b: PolyMesh, what: string, make: () => T): T {
    let others = this.pairs.get(a);
    if (!others) {
      others = new WeakMap();
      this.pairs.set(a, others);
    }
    return remembered(into(others, b), what, make);
  }
  /** A number for a mesh that no other has, for keys. */
  numberOf(mesh: PolyMesh): number {
    const known = this.numbers.get(mesh) ?? this.next++;
    this.numbers.set(mesh, known);
    return known;
  }
  /** A stored mesh, opened once. */
  open(blob: string, open: () => PolyMesh): PolyMesh {
    const found = this.opened.get(blob) ?? open();
    this.opened.delete(blob);
    this.opened.set(blob, found);
    if (this.opened.size > OPENED) this.opened.delete(this.opened.keys().next().value as string);
    return found;
  }
}

function into(by: WeakMap<PolyMesh, Map<string, unknown>>, mesh: PolyMesh): Map<string, unknown> {
  let known = by.get(mesh);
  if (!known) {
    known = new Map();
    by.set(mesh, known);
  }
  return known;
}

function remembered<T>(known: Map<string, unknown>, what: string, make: () => T): T {
  if (known.has(what)) return known.get(what) as T;
  const made = make();
  known.set(what, made);
  return made;
}
