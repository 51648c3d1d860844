/* For the demo's scripted people: the one way to talk to an X server that this project has. */
export { XConnection, loadExtensions } from './x11/x-connection.ts';
/* For benches and tests: a source without a person in front of it. */
export { nodeCodecs } from './picture/node-codecs.ts';
export type { Desktop } from './desktop/desktop.ts';
export { READY_PROPERTY, WORDS_PROPERTY } from './x11/prompt-layout.ts';
