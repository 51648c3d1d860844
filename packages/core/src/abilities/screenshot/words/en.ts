export const english = {
  permissions: { 'take-screenshot': 'keep pictures of your screen' },
  sentences: {
    taken: '{who} took a picture of your screen',
    keptThemselves: '{who} kept a picture of your screen',
    keptHere: '{who} put a picture of your screen into the records of this session',
    keptByYou: '{who} gave you a picture of your screen',
  },
};
