export const english = {
  permissions: {
    'give-files': 'give you files',
    'fetch-files': 'fetch files from your computer',
  },
  sentences: {
    fileOffered: '{who} wants to give you {name} ({size})',
    youOffered: 'You offered {name} ({size})',
    fileAccepted: '{who} takes {name}',
    youAccepted: 'You take {name}',
    fileRefused: '{name} was refused',
    fileCancelled: '{name} was cancelled',
    fileFailed: '{name} did not arrive',
    fileArrived: '{name} is complete',
  },
};
