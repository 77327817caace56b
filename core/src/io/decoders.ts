import type { WebIO } from '@gltf-transform/core';

/**
 * Loads what a file is packed with: Draco and meshopt are general-purpose decoders of some size, so only files that need one bring it in.
 *
 * @param used the extensions that the file says it uses
 */
export async function withDecoders(io: WebIO, used: readonly string[]): Promise<WebIO> {
  if (used.includes('EXT_meshopt_compression')) {
    const { MeshoptDecoder } = await import('meshoptimizer/decoder');
    await MeshoptDecoder.ready;
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  }
  if (used.includes('KHR_draco_mesh_compression')) {
    const { default: draco } = await import('draco3d');
    io.registerDependencies({ 'draco3d.decoder': await draco.createDecoderModule() });
  }
  return io;
}
