/* For the demo's scripted people: the one way to talk to an X server that this project has. */
export { XConnection, loadExtensions } from './x11/x-connection.ts';
