// The build embeds these into the program, so that Doorstep is one file.
declare module '*.ttf' {
  const bytes: Uint8Array;
  export default bytes;
}
declare module '*.wasm' {
  const bytes: Uint8Array;
  export default bytes;
}
