/** Built as a script of its own; this is where it lies. */
declare module '*?worker&url' {
  const url: string;
  export default url;
}
