declare module 'opusscript/build/opusscript_native_wasm.js' {
  /** libopus, compiled to WASM. Each 16-bit place of its sample buffers holds one byte. */
  export interface OpusModule {
    readonly HEAPU8: Uint8Array;
    readonly HEAPU16: Uint16Array;
    _malloc(sizeBytes: number): number;
    _free(pointer: number): void;
    readonly OpusScriptHandler: {
      new (sampleRateHz: number, channels: number, application: number): OpusHandler;
      destroy_handler(handler: OpusHandler): void;
    };
  }
  export interface OpusHandler {
    _encode(samples: number, sizeBytes: number, packet: number, frameSamples: number): number;
    _decode(packet: number, sizeBytes: number, samples: number): number;
    _encoder_ctl(what: number, value: number): number;
  }
  export default function load(options?: { wasmBinary?: Uint8Array | undefined }): OpusModule;
}
