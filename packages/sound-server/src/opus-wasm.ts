/** In a bundle these are the bytes; beside an installed package its loader finds them by itself. */
export const wasmBinary: Uint8Array | undefined = undefined;
