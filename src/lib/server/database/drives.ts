import { statfsSync } from 'node:fs';

/* Magic numbers of network file systems (Linux, statfs(2) and linux/magic.h; FUSE: sshfs and its like). */
const ELSEWHERE: Record<number, string> = {
	0x6969: 'NFS',
	0x517b: 'SMB',
	0xff534d42: 'CIFS',
	0xfe534d42: 'SMB2',
	0x5346414f: 'AFS',
	0x01021997: '9P',
	0x00c36400: 'Ceph',
	0x73757245: 'Coda',
	0x65735546: 'FUSE, as for sshfs'
};

/**
 * The network file system of a folder; undefined: local, or unknown.
 *
 * @param typeOf tells the type of a file system, for tests
 */
export function networkDrive(
	folder: string,
	typeOf: (folder: string) => number = (place) => statfsSync(place).type
): string | undefined {
	try {
		return ELSEWHERE[typeOf(folder) >>> 0];
	} catch {
		return undefined;
	}
}
