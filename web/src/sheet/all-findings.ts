import type { Finding } from '@wellmorph/core/inspect/finding';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { withWaivers } from '@wellmorph/core/pipeline/inspect';
import type { Look } from '@wellmorph/core/pipeline/look';
import { lookHash } from '@wellmorph/core/pipeline/results';

/** Everything found: by forming, and by the longer look where that is of the same form; waivers as they are now. */
export function allFindings(
  document: AssetDocument,
  formed: readonly Finding[],
  look: ({ hash: string } & Pick<Look, 'findings'>) | null | undefined,
): Finding[] {
  return withWaivers(document, [...formed, ...(look && look.hash === lookHash(document) ? look.findings : [])]);
}
