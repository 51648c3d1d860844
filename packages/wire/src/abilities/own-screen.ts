import { defineChannel } from '../sealed/channel.ts';
import { PictureMessage } from './picture.ts';

/**
 * The same words as of the customer's picture, the other way: the technician is the source, and the customer's side looks.
 * What is shown goes on the screen and cursor channels, told apart by who sends it.
 */
export const ownScreenChannel = defineChannel({
  name: 'own-screen',
  id: 16,
  line: 'interactive',
  message: PictureMessage,
  needs: { toCustomer: ['show-own-screen'], toDesk: ['show-own-screen'] },
});
