export const english = {
  permissions: {
    'view-screen': 'see your screen',
  },
  sentences: {
    shows: 'You show {what}',
  },
};
