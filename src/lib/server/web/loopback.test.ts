import { describe, expect, it } from 'vitest';
import { isLoopbackAddress, isLoopbackHost, isOwnRequest } from './loopback.ts';

describe('only this machine, and only our own pages', () => {
	it.each([
		['127.0.0.1:4810', true],
		['localhost', true],
		['[::1]:80', true],
		['LOCALHOST:4810', true],
		['kovrel.evil.example', false],
		['127.0.0.1.evil.example', false],
		['', false],
		[null, false]
	])('host %s: %s', (host, allowed) => {
		expect(isLoopbackHost(host)).toBe(allowed);
	});

	it.each<[Record<string, string>, boolean]>([
		[{ 'sec-fetch-site': 'same-origin' }, true],
		[{ 'sec-fetch-site': 'none' }, true],
		[{ 'sec-fetch-site': 'same-site' }, false],
		[{ 'sec-fetch-site': 'cross-site' }, false],
		[{ origin: 'http://127.0.0.1:4810', host: '127.0.0.1:4810' }, true],
		[{ origin: 'http://evil.example', host: '127.0.0.1:4810' }, false],
		[{ origin: 'null', host: '127.0.0.1:4810' }, false],
		[{ host: '127.0.0.1:4810' }, true]
	])('%j: %s', (headers, allowed) => {
		expect(isOwnRequest(new Headers(headers))).toBe(allowed);
	});

	it.each([
		['127.0.0.1', true],
		['127.8.9.10', true],
		['::1', true],
		['::ffff:127.0.0.1', true],
		['192.0.2.7', false],
		['::ffff:192.0.2.7', false],
		['127.0.0.1.evil.example', false],
		['', false]
	])('from %s: %s', (address, allowed) => {
		expect(isLoopbackAddress(address)).toBe(allowed);
	});
});
