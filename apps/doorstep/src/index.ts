/* For the demo's scripted people: the one way to talk to an X server that this project has. */
export { XConnection } from './x11/server/connection.ts';
export { loadExtensions } from './x11/server/extensions.ts';
/* For benches and tests: a source without a person in front of it. */
export { nodeCodecs } from './picture/node-codecs.ts';
export type { Desktop } from './desktop/desktop.ts';
export { READY_PROPERTY, WORDS_PROPERTY } from './x11/person/prompt-layout.ts';
