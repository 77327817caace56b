import { setLesson } from '@/server/db/lessons';
import { LessonPatchRequest } from '@/server/requests/logbook';
import { body, route, something } from '@/server/requests/route';

export const PATCH = route<{ lesson: string }>(async (request, { lesson }) => {
  await setLesson(lesson, something(await body(request, LessonPatchRequest)));
  return Response.json({ lesson });
});
