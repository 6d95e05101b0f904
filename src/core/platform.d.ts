/* Runtime features beyond ECMAScript that core/ uses: the WHATWG Encoding and URL standards, and HTML's base64. */
declare class TextDecoder {
	constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
	/** The name of its encoding, in lower case. */
	readonly encoding: string;
	decode(input?: ArrayBufferView | ArrayBuffer, options?: { stream?: boolean }): string;
}
declare class TextEncoder {
	encode(input?: string): Uint8Array<ArrayBuffer>;
	encodeInto(input: string, into: Uint8Array): { read: number; written: number };
}
declare function atob(base64: string): string;
declare function btoa(binary: string): string;
declare class URL {
	constructor(url: string);
	readonly protocol: string;
	readonly hostname: string;
	readonly username: string;
	readonly pathname: string;
	readonly search: string;
	readonly href: string;
}
