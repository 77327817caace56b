import { addLesson, listLessons } from '@/server/db/lessons';
import { LessonRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async () => Response.json(await listLessons()));

export const POST = route(async (request) => Response.json(await addLesson(await body(request, LessonRequest)), { status: 201 }));
