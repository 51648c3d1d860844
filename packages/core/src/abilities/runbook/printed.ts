/** What makes a terminal do something (ECMA-48 control sequences, and strings up to their end). */
const sequences = /\u001b(?:\[[0-?]*[ -/]*[@-~]|[\]PX^_][^\u0007\u001b]*(?:\u0007|\u001b\\)?|[ -/]*[0-~])/g;
/** The rest of what is no text: controls but for tab and new line, and what turns the direction of writing around. */
const controls = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g;

/** Halves of characters. */
const halves = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** Text as a program printed it, with nothing left that does anything but stand there. */
export const plainOutput = (printed: string): string =>
  printed.replace(sequences, '').replace(/\r\n?/g, '\n').replace(controls, '').replace(halves, '\ufffd');
