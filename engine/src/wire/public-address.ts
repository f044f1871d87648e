import ipaddr from 'ipaddr.js';

/** Ranges that the whole network shares: all others are somebody's own (RFC 6890 and IANA's registers, as ipaddr.js has them). */
export function isPublicAddress(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  const parsed = ipaddr.process(address); // an IPv4 address in IPv6 dress is judged as the IPv4 address
  return parsed.range() === 'unicast';
}

/** Host names by which a server may be asked though it stands in a network of one's own: `gis.example` for every port, or `gis.example:8080`. */
export type AllowedHosts = ReadonlySet<string>;

export const isAllowed = (url: URL, allowed: AllowedHosts): boolean =>
  allowed.has(url.hostname.toLowerCase()) ||
  allowed.has(`${url.hostname.toLowerCase()}:${url.port || (url.protocol === 'https:' ? 443 : 80)}`);

/** The host as a URL has it, without the brackets of IPv6. */
export const bareHost = (url: URL): string => url.hostname.replace(/^\[|\]$/g, '');
