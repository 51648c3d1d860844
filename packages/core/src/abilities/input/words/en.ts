export const english = {
  permissions: {
    'control-input': 'use your mouse and keyboard',
  },
  sentences: {
    controlStarted: '{who} is using your mouse and keyboard',
    controlStopped: '{who} stopped using your mouse and keyboard ({clicks} clicks, {keys} key presses)',
  },
};
