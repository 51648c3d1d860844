export const english = {
  permissions: {},
  sentences: {
    wordsSame: 'You compared the check words with {who}: the same',
    wordsDiffer: 'You compared the check words with {who}: not the same',
  },
};
