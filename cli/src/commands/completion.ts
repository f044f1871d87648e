import { ProblemError } from '@rootmap/core';
import type { Command } from '../command.js';
import { bashScript, powershellScript, zshScript, type Word } from '../completion-scripts.js';

const SHELLS = { bash: bashScript, zsh: zshScript, powershell: powershellScript } as const;
const isShell = (word: string): word is keyof typeof SHELLS => Object.hasOwn(SHELLS, word);

/** A script that completes commands, their flags and paths, made from the commands as they are. */
export const completionOf = (commands: Readonly<Record<string, () => Promise<Command>>>, common: readonly string[]): Command => ({
  usage: 'completion bash|zsh|powershell',
  summary: 'Prints a script by which the shell completes commands and flags as you type.',
  examples: [
    'completion bash > ~/.local/share/bash-completion/completions/rootmap',
    'completion zsh > ~/.zfunc/_rootmap',
    'completion powershell >> $PROFILE',
  ],
  flags: {},
  paths: [1, 1],
  run: async (call) => {
    const shell = call.words[0]!;
    if (!isShell(shell))
      throw new ProblemError({ code: 'wrong-use', message: `There is no completion for "${shell}": bash, zsh and powershell are there.` });
    const words: Word[] = [];
    for (const [name, load] of Object.entries(commands)) {
      const { flags, summary } = await load();
      words.push({ name, summary, flags: [...Object.keys(flags), ...common].map((f) => `--${f}`) });
    }
    const script = SHELLS[shell](words);
    return { json: { shell, script }, text: script.split('\n'), status: 0 };
  },
});
