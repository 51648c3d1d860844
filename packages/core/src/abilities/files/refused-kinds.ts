const KIND = /^\.?[a-z0-9]{1,12}$/;

/** Endings of names, as somebody types them: ".exe, scr". Throws with the one that is none. */
export function readFileKinds(text: string): string[] {
  return text.split(',').flatMap((typed) => {
    const kind = typed.trim().toLowerCase();
    if (!kind) return [];
    if (!KIND.test(kind)) throw new Error(`“${kind}” is no ending of a name; write it like this: exe, scr, js`);
    return [kind.replace('.', '')];
  });
}

/** Whether a file of this name is one that the desk lets nobody move: by its last ending, dots and spaces behind it aside. */
export function isRefusedKind(name: string, kinds: readonly string[]): boolean {
  const ending = /\.([^.]+)$/.exec(name.toLowerCase().replace(/[. ]+$/, ''))?.[1];
  return ending !== undefined && kinds.includes(ending.trim());
}
