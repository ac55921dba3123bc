import { hostClock, type Clock } from '../clock';

/** A hand on the playhead that moves on when it has seen the picture, however long that took: its time is that of the gesture. */
export class PatientHand implements Clock {
  private time = 0;
  private see: () => void = () => undefined;

  now = () => this.time;
  turn = () => hostClock.turn();

  async sleep(us: number): Promise<void> {
    await new Promise<void>((resolve) => {
      this.see = resolve;
    });
    this.time += us;
  }

  saw(): void {
    this.see();
  }
}
