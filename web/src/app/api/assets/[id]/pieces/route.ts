import { bringPiece, otherPieces } from '@/server/import/pieces';
import { body, route } from '@/server/requests/route';
import { BringPieceRequest } from '@/server/requests/shapes';

export const GET = route<{ id: string }>(async (_, { id }) => Response.json(await otherPieces(id)));

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { from, frozen } = await body(request, BringPieceRequest);
  return Response.json(await bringPiece(id, from, frozen));
});
