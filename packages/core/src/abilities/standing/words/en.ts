export const english = {
  permissions: {
    'keep-device': 'connect to this computer later',
  },
  sentences: {},
};
