import pino from 'pino';

/** The options of the log. An error stands under `error`, with its message and stack. */
export const LOG_OPTIONS: pino.LoggerOptions = {
	level: process.env.KOVREL_LOG ?? 'info',
	serializers: { error: pino.stdSerializers.err }
};

/** The log: JSON lines on standard error. It never contains what people write, search for or upload. */
export const log = pino(LOG_OPTIONS, pino.destination(2));
