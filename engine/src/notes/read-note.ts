import { spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { BlockList, decodeText, noteKindOf, ProblemError, textBlocks, type Note, type NoteBlock } from '@rootmap/core';
import { onDisk } from '../disk/disk-problem.js';
import { basename, toNative } from '../disk/native-path.js';
import { withFileNow } from '../disk/open.js';
import { OpenFiles } from '../disk/file-source.js';
import { isPlaceholder } from '../disk/placeholder.js';

/** What the child process tells. */
export type ToldNote =
  { readonly blocks: readonly NoteBlock[]; readonly isCut: boolean; readonly pictures: number | null } | { readonly why: string };

const PATIENCE_MS = 20_000;
const MOST_TOLD_BYTES = 16 << 20;
/** Of plain text the beginning is shown, however long it is; another document that is longer is none that is read here. */
const MOST_TEXT_BYTES = 1 << 20;
const MOST_DOCUMENT_BYTES = 64 << 20;
/** Megabytes that the child may take for what is no array of bytes. */
const HEAP = 512;

/** Beside this file when it is compiled or bundled; tests of the sources take the compiled one. */
const SCRIPT = ['./note-child.js', '../../dist/notes/note-child.js']
  .map((at) => fileURLToPath(new URL(at, import.meta.url)))
  .find((path) => existsSync(path));

/** The text of a note. Throws a problem where it cannot be read: it is told, and nothing else ends. */
export function readNote(path: string): Note {
  const kind = noteKindOf(path);
  if (kind === null) throw unread(path, 'it is no text, Markdown, HTML, PDF, docx or odt');
  const stat = onDisk(path, () => statSync(path));
  if (isPlaceholder(stat)) throw new ProblemError({ code: 'in-the-cloud', path });
  if (kind === 'text') return plain(path);
  if (stat.size > MOST_DOCUMENT_BYTES)
    throw new ProblemError({ code: 'too-large', file: basename(path), bytes: stat.size, limitBytes: MOST_DOCUMENT_BYTES });
  const told = askChild(kind, path);
  if ('why' in told) throw unread(path, told.why);
  return { kind, ...told };
}

const unread = (path: string, why: string): ProblemError => new ProblemError({ code: 'unreadable-note', file: basename(path), why });

function plain(path: string): Note {
  const files = new OpenFiles();
  try {
    const source = onDisk(path, () => files.source(path));
    const list = new BlockList();
    textBlocks(decodeText(source.read(0, MOST_TEXT_BYTES)), list);
    return { kind: 'text', blocks: list.blocks, isCut: list.isCut || source.sizeBytes > MOST_TEXT_BYTES, pictures: 0 };
  } finally {
    files.close();
  }
}

function askChild(kind: string, path: string): ToldNote {
  if (SCRIPT === undefined) return { why: 'what reads it is not installed' };
  const script = SCRIPT;
  return withFileNow(path, (held) => {
    const file = held.replace(/^\/proc\/self\//, `/proc/${process.pid}/`);
    const { status, signal, stdout } = spawnSync(process.execPath, [`--max-old-space-size=${HEAP}`, script, kind, toNative(file)], {
      timeout: PATIENCE_MS,
      maxBuffer: MOST_TOLD_BYTES,
      stdio: ['ignore', 'pipe', 'ignore'],
      windowsHide: true,
      killSignal: 'SIGKILL',
    });
    if (status === 0) return JSON.parse(stdout.toString('utf8')) as ToldNote;
    return {
      why:
        signal === null
          ? 'it takes more memory than a document does'
          : `it took longer than ${PATIENCE_MS / 1000} s, or more than a document says`,
    };
  });
}
