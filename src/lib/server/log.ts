import pino from 'pino';

/** The log: JSON lines on standard error. What people write, search for or upload never stands in it. */
export const log = pino({ level: process.env.KOVREL_LOG ?? 'info' }, pino.destination(2));
