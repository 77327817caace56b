import { IsInt, IsString, Length, Matches, Min, ValidateIf } from 'class-validator';
import { pairByHand } from '@/server/import/import';
import { body, route } from '@/server/requests/route';

class PairRequest {
  @IsInt() @Min(1) baseVersion!: number;
  @IsString() @Length(1, 60) part!: string;
  @ValidateIf((o: PairRequest) => o.high !== null) @Matches(/^[0-9a-f]{64}$/) high!: string | null;
}

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, part, high } = await body(request, PairRequest);
  return Response.json(await pairByHand(id, baseVersion, part, high));
});
