/**
 * What can go wrong, as data. Plain JSON, so that it crosses a worker, HTTP and a terminal unchanged.
 * Bad input is a value of this type; a broken contract throws.
 */
export type Problem =
  | { code: 'truncated'; file: string; neededBytes: number; gotBytes: number }
  | { code: 'bad-field'; file: string; field: string; offset: number; expected: string; found: string | number }
  | { code: 'bad-json'; file: string; line: number; column: number; expected: string }
  | { code: 'too-many-values'; file: string; limit: number }
  | { code: 'endless-record'; file: string; row: number }
  | { code: 'wrong-shape'; file: string; member: string; expected: string }
  | { code: 'not-a-database'; file: string; why: string }
  | { code: 'too-large'; file: string; bytes: number; limitBytes: number }
  | { code: 'bad-address'; text: string; why: string }
  | { code: 'bad-name'; name: string; why: string }
  | { code: 'protected'; path: string; folder: string }
  | { code: 'outside-places'; path: string; why: string }
  | { code: 'place-absent'; place: string }
  | { code: 'missing'; path: string }
  | { code: 'away'; path: string }
  | { code: 'in-the-cloud'; path: string }
  | { code: 'exists'; path: string }
  | { code: 'permission'; path: string }
  | { code: 'no-space'; path: string }
  | { code: 'busy'; path: string; by?: readonly string[] }
  | { code: 'read-only'; path: string }
  | { code: 'io'; path: string; errno: string }
  | { code: 'changed-meanwhile'; path: string }
  | { code: 'locked'; root: string; owner: string }
  | { code: 'not-found'; what: string; id: string }
  | { code: 'bad-bag'; path: string; why: string }
  | { code: 'bad-archive'; file: string; why: string }
  | { code: 'unreadable-note'; file: string; why: string }
  | { code: 'unfinished'; what: string; why: string }
  | { code: 'not-a-file'; path: string; what: string }
  | { code: 'cannot-undo'; path: string; why: string }
  | { code: 'two-project-files'; folder: string; files: readonly string[] }
  | { code: 'wrong-use'; message: string }
  | { code: 'cancelled'; what: string }
  | { code: 'no-service'; host: string; trouble: WireTrouble; detail?: string | undefined }
  | { code: 'failed'; what: string; why: string };

/** What keeps a server's answer from coming, or from being of use. */
export type WireTrouble =
  | 'unknown-host'
  | 'refused'
  | 'certificate'
  | 'sign-in'
  | 'wrong-sign-in'
  | 'forbidden'
  | 'gone'
  | 'no-map-server'
  | 'slow'
  | 'too-large'
  | 'moved'
  | 'ring'
  | 'private'
  | 'plain-secret'
  | 'error'
  | 'broken'
  | 'broke-off'
  | 'waits'
  | 'not-linked';

export type Result<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

export const done = <T>(value: T): Result<T> => ({ ok: true, value });
export const fail = (problem: Problem): Result<never> => ({ ok: false, problem });

/** A problem on its way up through code that cannot carry on; caught where it becomes a sentence. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(explain(problem));
    this.name = 'ProblemError';
  }
}

/** The value, or a throw of its problem. */
export function must<T>(result: Result<T>): T {
  if (result.ok) return result.value;
  throw new ProblemError(result.problem);
}

/** The one place where a problem becomes a sentence: what is wrong, why, and what to do. */
export function explain(p: Problem): string {
  switch (p.code) {
    case 'truncated':
      return `${p.file} has ${p.gotBytes} of at least ${p.neededBytes} bytes. Copy it again from where it came from.`;
    case 'bad-field':
      return `${p.file}: ${p.field} is ${p.found}, not ${p.expected} (byte ${p.offset}). Check the file's ending, or fetch it again.`;
    case 'bad-json':
      return `${p.file} is damaged at line ${p.line}, column ${p.column}: expected ${p.expected}. Mend the text there, or bring back an earlier copy.`;
    case 'too-many-values':
      return `${p.file} holds more than ${p.limit} values, as no map and no project does. Check that it is what its name says.`;
    case 'endless-record':
      return `${p.file}: the record in row ${p.row} is longer than any record, as where a quote is opened and not closed. Look at that row, or export the table again.`;
    case 'wrong-shape':
      return `${p.file}: "${p.member}" is not ${p.expected}. Correct that member, or bring back an earlier copy.`;
    case 'not-a-database':
      return `${p.file} cannot be read as a geodatabase: ${p.why}. Bring back an earlier copy.`;
    case 'too-large':
      return `${p.file} has ${p.bytes} bytes, more than the ${p.limitBytes} that are read. Check that it is what its name says.`;
    case 'bad-address':
      return `"${p.text}" cannot be used as an address: ${p.why}. Write it as a relative path or a file: URI.`;
    case 'bad-name':
      return `"${p.name}" cannot be a name: ${p.why}. Choose another one.`;
    case 'protected':
      return `${p.path} is in ${p.folder}, which holds originals and is not changed by the app. Make a working copy, or say that you mean it.`;
    case 'outside-places':
      return `"${p.path}" is not open to this server: ${p.why}. Choose a folder inside one of the places, or add its folder as a place.`;
    case 'place-absent':
      return `The place ${p.place} is not here now. Plug it in or connect it, then try again.`;
    case 'away':
      return `${p.path} is not here now, or is not the folder that it was. Plug it in or connect it; what was begun there is then brought to its end.`;
    case 'missing':
      return `There is nothing at ${p.path}. Check the spelling, or look whether it was moved.`;
    case 'in-the-cloud':
      return `${p.path} stands in the cloud only, and reading it would fetch it. Let the synchronised folder fetch it, then try again.`;
    case 'exists':
      return `${p.path} is there already, and nothing is overwritten. Choose another name or an empty folder.`;
    case 'permission':
      return `${p.path} may not be opened by this account. Ask for permission to it, or choose another folder.`;
    case 'no-space':
      return `The disk is full: ${p.path} could not be written, and what stood there is unchanged. Free some space, then try again.`;
    case 'busy':
      return `${p.path} is held open by ${p.by?.length ? `another program (${p.by.join(', ')})` : 'another program'}. Close it there, then try again.`;
    case 'read-only':
      return `${p.path} is on a place that cannot be written to. Copy the project to another place first.`;
    case 'io':
      return `${p.path} could not be read or written (${p.errno}). Check the drive and its cable, then try again.`;
    case 'changed-meanwhile':
      return `${p.path} was changed by someone else since it was read, so nothing was overwritten. Look at it again, then repeat.`;
    case 'locked':
      return `${p.root} is being changed by ${p.owner}. Wait until that is done, then try again.`;
    case 'not-found':
      return `There is no ${p.what} "${p.id}" here. It may have been removed meanwhile: reload the page.`;
    case 'bad-archive':
      return `${p.file} cannot be unpacked: ${p.why}. Fetch it again from where it came from.`;
    case 'unreadable-note':
      return `${p.file} cannot be shown: ${p.why}. Open it with the program that it was written with.`;
    case 'bad-bag':
      return `${p.path} in the bundle: ${p.why}. Ask the sender for the bundle again.`;
    case 'unfinished':
      return `${p.what} stopped midway: ${p.why.replace(/\.$/, '')}. It is finished or taken back by itself as soon as that is put right; until then its folder cannot be changed.`;
    case 'not-a-file':
      return `${p.path} is ${p.what} and not a file, so it is not opened. Move it away, or leave it where it is.`;
    case 'cannot-undo':
      return `${p.path} was left as it is: ${p.why}.`;
    case 'two-project-files':
      return `${p.folder} has more than one project file (${p.files.join(', ')}). Keep one and move the others away.`;
    case 'wrong-use':
      return p.message;
    case 'cancelled':
      return `${p.what} was cancelled. Nothing was left half done.`;
    case 'no-service':
      return explainTrouble(p.host, p.trouble, p.detail ?? '');
    case 'failed':
      return `${p.what} failed: ${p.why}.`;
  }
}

/** Sentences about servers: which, what is the matter, what to do. */
function explainTrouble(host: string, trouble: WireTrouble, detail: string): string {
  switch (trouble) {
    case 'unknown-host':
      return `No server is known by the name ${host}. Look at how the address is spelled, and whether this machine is connected.`;
    case 'refused':
      return `${host} takes no connection. Ask whoever runs it, or look at the number after the colon in its address.`;
    case 'certificate':
      return `The certificate of ${host} is not valid${detail && `: ${detail}`}. Another server may be answering in its name; ask whoever runs it.`;
    case 'sign-in':
      return `${host} wants to know who asks. Sign in to it, and try again.`;
    case 'wrong-sign-in':
      return `${host} does not accept this name and password, or this key. Sign in once more.`;
    case 'forbidden':
      return `${host} knows who asks, and does not allow it. Ask whoever runs it for the right to see this.`;
    case 'gone':
      return `${host} answers, and has nothing at this address. Look at how it is spelled, or ask for the new one.`;
    case 'no-map-server':
      return `${host} answers, and is no map server that can be read here${detail && `: ${detail}`}. Paste the address of its capabilities or its landing page.`;
    case 'slow':
      return `${host} did not answer in time${detail && ` (${detail})`}. Try it again later.`;
    case 'too-large':
      return `${host} sends more than ${detail} for one answer, which is not read. Ask for less of it, or ask whoever runs it.`;
    case 'moved':
      return `${host} says that it moved to ${detail}. Follow it there, if that is where it should be.`;
    case 'ring':
      return `${host} leads from one address to the next and never answers. Ask whoever runs it.`;
    case 'private':
      return `${host} stands in a network of your own (${detail}), and such hosts are asked only when they are allowed by name. Allow it, if it is meant.`;
    case 'plain-secret':
      return `${host} is reached without encryption, so no password or key is sent to it. Use its https address.`;
    case 'error':
      return `${host} answers with an error${detail && `: ${detail}`}. Try it again later, or ask whoever runs it.`;
    case 'broken':
      return `${host} sends something that cannot be read${detail && `: ${detail}`}. Ask whoever runs it.`;
    case 'broke-off':
      return `The connection to ${host} broke off${detail && `: ${detail}`}. Try it again; what came so far is kept.`;
    case 'waits':
      return `${host} failed a moment ago and is asked again ${detail}. Nothing waits for it until then.`;
    case 'not-linked':
      return `${host} is not linked to this project, so it is not asked. Link the service in Sources.`;
  }
}
