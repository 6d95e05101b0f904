import { BlockList, isIP, isIPv4 } from 'node:net';

/*
 * Addresses outside the public network, by IANA's registries of special-purpose addresses (RFC 6890) and of
 * multicast.
 */
const IPV4 = [
	['0.0.0.0', 8],
	['10.0.0.0', 8],
	['100.64.0.0', 10],
	['127.0.0.0', 8],
	['169.254.0.0', 16],
	['172.16.0.0', 12],
	['192.0.0.0', 24],
	['192.0.2.0', 24],
	['192.88.99.0', 24],
	['192.168.0.0', 16],
	['198.18.0.0', 15],
	['198.51.100.0', 24],
	['203.0.113.0', 24],
	['224.0.0.0', 4],
	['240.0.0.0', 4]
] as const;
/* Mapped, translated and tunnelled addresses contain another one: none is needed to reach a list. */
const IPV6 = [
	['::', 96],
	['::ffff:0:0', 96],
	['64:ff9b::', 96],
	['64:ff9b:1::', 48],
	['100::', 64],
	['2001::', 23],
	['2001:db8::', 32],
	['2002::', 16],
	['3fff::', 20],
	['5f00::', 16],
	['fc00::', 7],
	['fe80::', 10],
	['fec0::', 10],
	['ff00::', 8]
] as const;

/* Separate lists: in a common one every IPv4 address would be within ::ffff:0:0/96. */
const v4 = new BlockList();
for (const [network, prefix] of IPV4) v4.addSubnet(network, prefix, 'ipv4');
const v6 = new BlockList();
for (const [network, prefix] of IPV6) v6.addSubnet(network, prefix, 'ipv6');

/** Whether an IP address is public: not private, loopback, link-local or otherwise special. */
export function isPublicAddress(address: string): boolean {
	const plain = address.replace(/%.*$/, '');
	if (isIP(plain) === 0 || plain !== address) return false;
	return isIPv4(plain) ? !v4.check(plain, 'ipv4') : !v6.check(plain, 'ipv6');
}
