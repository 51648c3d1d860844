export const english = {
  permissions: {
    'draw-on-screen': 'point and draw on your screen',
  },
  sentences: {},
};
