import { ExportQuery } from '@/server/requests/logbook';
import { query, route } from '@/server/requests/route';
import { exported } from '@/server/runs-out';

export const dynamic = 'force-dynamic';

const KINDS = { csv: 'text/csv; charset=utf-8', json: 'application/json; charset=utf-8' };

/** The runs that are wanted, all of them, as a file. */
export const GET = route(async (request) => {
  const { format, ...wanted } = await query(request, ExportQuery);
  return new Response(await exported(wanted, format), {
    headers: { 'Content-Type': KINDS[format], 'Content-Disposition': `attachment; filename="logbook.${format}"` },
  });
});
