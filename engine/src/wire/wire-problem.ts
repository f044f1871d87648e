import { ProblemError, type WireTrouble } from '@rootmap/core';

export const noService = (host: string, trouble: WireTrouble, detail?: string): ProblemError =>
  new ProblemError({ code: 'no-service', host, trouble, ...(detail === undefined ? {} : { detail }) });

const CERTIFICATE: Readonly<Record<string, string>> = {
  CERT_HAS_EXPIRED: 'it has expired',
  CERT_NOT_YET_VALID: 'it is not valid yet',
  ERR_TLS_CERT_ALTNAME_INVALID: 'it was made for another name',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'the server signed it itself',
  SELF_SIGNED_CERT_IN_CHAIN: 'nobody known here has signed it',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'nobody known here has signed it',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'nobody known here has signed it',
  CERT_REVOKED: 'it was taken back',
};

const codeOf = (error: unknown): string => {
  const { code, cause } = error as { code?: unknown; cause?: unknown };
  if (typeof code === 'string' && !code.startsWith('UND_ERR_ABORTED')) return code;
  return cause ? codeOf(cause) : '';
};

/** What the system was asked for when it failed: an error of its may stand behind another one. */
const isOf = (error: unknown, call: 'getaddrinfo' | 'connect'): boolean => {
  const { syscall, cause } = error as { syscall?: unknown; cause?: unknown };
  return syscall === call || (cause !== undefined && cause !== null && isOf(cause, call));
};
/** Several addresses of one name were tried: of that the error tells the code alone. */
const NOT_REACHED = ['ECONNREFUSED', 'EHOSTUNREACH', 'ENETUNREACH', 'EADDRNOTAVAIL'];

/** What undici, sockets and TLS say, as what is the matter with a server. Throws what is none of theirs. */
export function wireProblem(error: unknown, host: string, waitedMs: number): ProblemError {
  if (error instanceof ProblemError) {
    // A name that was looked up does not know the port beside it.
    const { problem } = error;
    return problem.code === 'no-service' && problem.trouble === 'private' ? noService(host, 'private', problem.detail) : error;
  }
  const code = codeOf(error);
  const name = (error as Error).name;
  if (code in CERTIFICATE) return noService(host, 'certificate', CERTIFICATE[code]);
  if (/^(ERR_TLS|ERR_SSL|EPROTO)/.test(code)) return noService(host, 'certificate', 'it speaks no encryption that can be used');
  // A name that cannot be one has codes of its own: too long, of odd letters.
  if (code === 'ENOTFOUND' || code.startsWith('EAI_') || isOf(error, 'getaddrinfo')) return noService(host, 'unknown-host');
  if (name === 'TimeoutError' || /TIMEOUT|ETIMEDOUT/.test(code)) return noService(host, 'slow', `${Math.round(waitedMs / 1000)} seconds`);
  if (/^(ECONNRESET|EPIPE|UND_ERR_SOCKET|UND_ERR_RES_CONTENT_LENGTH_MISMATCH)$/.test(code)) return noService(host, 'broke-off');
  // Each system has codes of its own for a connection that is not to be had.
  if (NOT_REACHED.includes(code) || isOf(error, 'connect')) return noService(host, 'refused');
  if (/^(UND_ERR_|HPE_)/.test(code) || name === 'HTTPParserError') return noService(host, 'broken', 'what it sends is no HTTP');
  throw error;
}
