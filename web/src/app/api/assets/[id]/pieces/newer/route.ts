import { takePiece } from '@/server/import/pieces';
import { body, route } from '@/server/requests/route';
import { NewerPieceRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) =>
  Response.json(await takePiece(id, (await body(request, NewerPieceRequest)).from)),
);
