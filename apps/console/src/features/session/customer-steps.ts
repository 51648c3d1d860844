import type { CustomerStep } from '@porch/wire';

/** Where the customer is before there is a picture, and a sentence to say to them. */
export function customerStep(step: CustomerStep | 'nobody' | 'gone'): { where: string; say: string } {
  return steps[step];
}

const steps: Record<CustomerStep | 'nobody' | 'gone', { where: string; say: string }> = {
  nobody: {
    where: 'Nobody has come in yet.',
    say: `Please open ${location.host} in your browser and type the code I read to you.`,
  },
  gone: {
    where: 'They were here, but their line is gone just now.',
    say: 'Is your computer still connected? I am waiting; you need not do anything again.',
  },
  'page-open': { where: 'They have the page open.', say: 'You should see my name there. Please read it and go on.' },
  'typing-code': { where: 'They are typing the code.', say: 'There are eight digits, in two groups of four.' },
  'reading-who-asks': {
    where: 'They are reading who asks.',
    say: 'Take your time. It should say my name and your ticket.',
  },
  'getting-doorstep': { where: 'They are starting Doorstep.', say: 'Please open Doorstep now; the page shows how.' },
  'prompt-open': {
    where: 'A question is open on their screen.',
    say: 'Please look at your screen: there is a question with my name, and it is yours to answer.',
  },
  'looking-away': {
    where: 'Their page is in the background.',
    say: 'Please come back to the page of the help desk.',
  },
  private: { where: 'They are doing something private.', say: 'Take your time; I cannot see anything.' },
  ready: { where: 'They are ready.', say: 'I would like to look at your screen now. A question will come up.' },
};
