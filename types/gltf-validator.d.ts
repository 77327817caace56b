declare module 'gltf-validator' {
  const validator: {
    validateBytes(bytes: Uint8Array): Promise<{
      issues: { numErrors: number; numWarnings: number; messages: { severity: number; message: string }[] };
      info: { totalTriangleCount: number };
    }>;
  };
  export default validator;
}
