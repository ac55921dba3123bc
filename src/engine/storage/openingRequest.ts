/** What opening a file costs on a made-up volume: a small answer from the server, out of turn with what is read. */
export interface OpeningRequest {
  readonly address: number;
  readonly bytes: number;
}

/** Bytes of the answer to opening a file: its handle and its attributes (RFC 8881, 18.16 and 5.8). */
const answerBytes = 512;

/**
 * How opening a file is asked for of a model: beside what is read next, so that neither counts as read ahead.
 * It takes what any small request does: the way to the volume and back, and the drive's access.
 */
export const openingRequest = (address: number): OpeningRequest => ({
  address: address + 1,
  bytes: answerBytes,
});
