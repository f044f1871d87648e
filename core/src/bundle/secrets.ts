/** Files that hold keys or passwords, told from their names alone. Common practice, no source. */
const BY_NAME = [
  /\.(pem|key|pfx|p12|ppk|kdbx|keystore|jks)$/i,
  /^(id_(rsa|dsa|ecdsa|ed25519)|pgpass(\.conf)?|pg_service\.conf|netrc|_netrc)$/i,
  /^(credentials?|secrets?|passwords?|passwd)(\.(json|ya?ml|txt|ini|cfg|toml|csv|xlsx))?$/i,
];

/** Whether a file's name says that it holds a key or a password: a guess. */
export const looksSecret = (name: string): boolean => BY_NAME.some((pattern) => pattern.test(name));

/** Query members that hold a key. Common practice, no source. */
const SECRET_MEMBER = /^(api[-_]?key|key|token|access[-_]?token|auth|authkey|password|passwd|pwd|secret|sig|signature|user|username)$/i;

/** An address of a service without the name, password and keys in it; the same text where it has none. */
export function withoutSecrets(href: string): string {
  if (!/^https?:\/\//i.test(href)) return href;
  let url: URL;
  try {
    url = new URL(href);
  } catch {
    return href; // no address that a browser reads: judged elsewhere
  }
  const secret = [...url.searchParams.keys()].filter((name) => SECRET_MEMBER.test(name));
  if (url.username === '' && url.password === '' && secret.length === 0) return href;
  url.username = '';
  url.password = '';
  for (const name of secret) url.searchParams.delete(name);
  return url.href;
}
