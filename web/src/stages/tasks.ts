import { gatherTask } from './bake/gather-task';
import { projectTask } from './bake/project-task';
import { bakeTask } from './bake/task';
import { findingsTask, formTask, lookTask } from './form/task';
import { renderTask } from './render/task';
import { surfaceTask } from './surface/task';
import { unwrapTask } from './unwrap/task';

/** How each kind of result is made and shown. */
export const TASKS = {
  form: formTask,
  findings: findingsTask,
  look: lookTask,
  unwrap: unwrapTask,
  bake: bakeTask,
  surface: surfaceTask,
  gather: gatherTask,
  project: projectTask,
  render: renderTask,
};
