import { FORMATS } from '@wellmorph/core/io/read';
import { isAssetFile } from '@wellmorph/core/pipeline/asset-file';
import { bodyBytes, RequestError } from '../requests/route';
import { LARGEST_UPLOAD, type Upload } from './limits';

/** A multipart upload: one model, and the MTL that may lie beside it. Nothing larger than the limit is read at all. */
export async function uploadOf(request: Request): Promise<Upload> {
  const type = request.headers.get('content-type') ?? '';
  if (!type.startsWith('multipart/form-data')) throw new RequestError(400, 'upload/form', 'Send the file as a form.');
  const bytes = await bodyBytes(request, LARGEST_UPLOAD + 100_000);
  let form: FormData;
  try {
    form = await new Response(bytes, { headers: { 'content-type': type } }).formData();
  } catch {
    throw new RequestError(400, 'upload/form', 'The upload broke off; nothing was stored.');
  }
  const files = form.getAll('file').filter((f): f is File => typeof f !== 'string');
  const model = files.find(
    (f) => (FORMATS as readonly string[]).includes(f.name.toLowerCase().split('.').pop() ?? '') || isAssetFile(f.name),
  );
  if (!model)
    throw new RequestError(
      400,
      'upload/none',
      files.length > 0
        ? `“${files[0].name}” is not a kind of file that can be read here; OBJ, GLB, glTF and asset files can.`
        : 'No file was sent.',
    );
  const companions: Record<string, Uint8Array> = {};
  for (const f of files) if (f !== model) companions[f.name] = new Uint8Array(await f.arrayBuffer());
  const text = (name: string) => {
    const value = form.get(name);
    return typeof value === 'string' && value.trim() !== '' ? value.trim().slice(0, 300) : null;
  };
  return {
    fileName: model.name.slice(0, 200),
    bytes: new Uint8Array(await model.arrayBuffer()),
    unit: text('unit'),
    licence: text('licence') ?? '',
    companions,
  };
}
