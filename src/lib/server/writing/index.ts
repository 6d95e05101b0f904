/* Mail that is written here: begun, kept, sent, filed. */

export { stopOutgoing } from './outgoing-store.ts';
export { type SendOutcome, clearOutgoing, outgoingHasWork, sendMail, sendMailUseCases } from './send-mail.ts';
export { type OutgoingView, setSignature, startMail, storeMail, writingUseCases } from './writing.ts';
