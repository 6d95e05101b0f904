import pino from 'pino';

/** How the log is written. An error stands under `error`, with its message and where it came from. */
export const LOG_OPTIONS: pino.LoggerOptions = {
	level: process.env.KOVREL_LOG ?? 'info',
	serializers: { error: pino.stdSerializers.err }
};

/** The log: JSON lines on standard error. What people write, search for or upload never stands in it. */
export const log = pino(LOG_OPTIONS, pino.destination(2));
