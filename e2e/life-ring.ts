import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, EXTMeshoptCompression } from '@gltf-transform/extensions';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { encodePng } from '../core/src/image/png';
import { type PolyMesh, triangleCount } from '../core/src/mesh/polymesh';
import { sheet, torusMesh } from '../core/test/shapes';

/**
 * A ring, a handle and a dish as another program might write them: modelled a hundred times as large, brought down by a node; the handle
 * mirrored and drawn out, the dish open, one material with a picture and seen from both sides; packed.
 */
export async function lifeRing(): Promise<Buffer> {
  const document = new Document();
  const buffer = document.createBuffer();
  const pixels = new Uint8Array([200, 40, 40, 255, 240, 240, 235, 255, 240, 240, 235, 255, 200, 40, 40, 255]);
  const picture = document.createTexture('paint').setImage(encodePng({ width: 2, height: 2, channels: 4, depth: 8, data: pixels }));
  const paint = document.createMaterial('Paint').setBaseColorTexture(picture.setMimeType('image/png')).setDoubleSided(true);
  const steel = document.createMaterial('Steel').setMetallicFactor(1).setRoughnessFactor(0.3).setBaseColorFactor([0.6, 0.6, 0.62, 1]);
  const node = (name: string, shape: PolyMesh, material: typeof paint) => {
    const corners = Uint32Array.from(shape.triangles, (c) => shape.faceVert[c]).slice(0, 3 * triangleCount(shape));
    // Tenths of the shape's millimetres, as metres.
    const places = Float32Array.from(shape.positions, (x) => x / 10);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(places).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(corners).setBuffer(buffer));
    return document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
  };
  const dish = sheet(12, 40, (x, z) => 4 * ((x / 20) ** 2 + (z / 20) ** 2));
  const group = document.createNode('Buoy').setScale([0.01, 0.01, 0.01]);
  group.addChild(node('Ring', torusMesh(30, 8, 40, 20), paint));
  group.addChild(
    node('Handle', torusMesh(10, 2, 24, 12), steel)
      .setTranslation([3, 1, 0])
      .setScale([-1, 1.5, 1]),
  );
  group.addChild(node('Dish', dish, steel).setTranslation([0, 2.2, 0]));
  document.createScene('All').addChild(group);
  await MeshoptEncoder.ready;
  document.createExtension(EXTMeshoptCompression).setRequired(true);
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
  return Buffer.from(await io.writeBinary(document));
}
