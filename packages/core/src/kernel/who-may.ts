import type { PartAction } from '../people/part.ts';
import type { KernelCommand } from './commands.ts';

/** What each command of the kernel is, to the table of parts. */
export const kernelActions: Readonly<Record<KernelCommand['type'], PartAction>> = {
  introduceCustomer: 'speak for the customer',
  chooseAim: 'lead the session',
  answerChangeOver: 'lead the session',
  answerCall: 'speak for the customer',
  acceptSession: 'speak for the customer',
  beginVisit: 'open the door',
  leaveSession: 'leave',
  'beside/letIn': 'lead the session',
  'beside/sendAway': 'lead the session',
  'planned/choose': 'lead the session',
  'possible/tell': 'hold the consent',
  offerOwnPicture: 'offer a picture of its own',
  askPermissions: 'ask for a permission',
  takeBackAsk: 'ask for a permission',
  grantAsk: 'hold the consent',
  refuseAsk: 'speak for the customer',
  withdrawPermission: 'give back or take back',
  loseScreen: 'speak for the computer',
  sendChat: 'say something',
  requestHandover: 'lead the session',
  takeBackHandover: 'lead the session',
  askToTry: 'lead the session',
  answerTry: 'speak for the customer',
  endSession: 'end the session',
  logOutcome: 'log the outcome',
};
