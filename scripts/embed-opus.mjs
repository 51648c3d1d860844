/** An esbuild plugin: puts Opus's WASM into the bundle, where its loader would look for a file beside itself. */
export const embedOpus = {
  name: 'embed-opus',
  setup: (b) => {
    b.onLoad({ filter: /opus-wasm\.ts$/ }, () => ({
      contents: "export { default as wasmBinary } from 'opusscript/build/opusscript_native_wasm.wasm';",
    }));
  },
};
