export const english = {
  permissions: {
    'work-alone': 'use your mouse and keyboard while you are away',
  },
  sentences: {
    privateOn: 'You do something private; nothing is shown',
    privateOff: 'The private moment is over',
    away: 'Nobody seemed to be at the computer, so nobody may use mouse and keyboard there',
    back: 'You are at the computer again',
  },
};
