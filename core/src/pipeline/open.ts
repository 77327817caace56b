import { kindOf } from '../form/steps';
import { type Part, stepsOf } from './document';

/** Whether a part is open on purpose: it was said of it, or a step of it makes sheets without a thickness. */
export const meantOpen = (part: Part): boolean =>
  part.declaredOpen || stepsOf(part).some((s) => s.enabled && (kindOf(s.kind).open?.(s) ?? false));
