import { Injectable, type BeforeApplicationShutdown, type MessageEvent } from '@nestjs/common';
import type { ProjectEvent } from '@lurn/contract';
import { Observable, Subject } from 'rxjs';

interface Told {
  number: number;
  projectId: string;
  event: ProjectEvent;
}

/** Enough to bridge a dropped connection of a minute or two. */
const remembered = 2000;

/** Carries what happens on the server to the pages that look at it; a page that was away hears what it missed. */
@Injectable()
export class EventHub implements BeforeApplicationShutdown {
  private readonly told: Told[] = [];
  private readonly live = new Subject<Told>();
  /** Tells event numbers of this run from those before a restart. */
  private readonly run = Date.now().toString(36);
  private last = 0;

  tell(projectId: string, event: ProjectEvent): void {
    const told = { number: ++this.last, projectId, event };
    this.told.push(told);
    if (this.told.length > remembered) this.told.shift();
    this.live.next(told);
  }

  /** The project's events from now on, after those that followed `lastId`. */
  stream(projectId: string, lastId: string | undefined): Observable<MessageEvent> {
    return new Observable((subscriber) => {
      const send = ({ number, event }: Told): void =>
        subscriber.next({ id: `${this.run}-${number}`, data: event });
      const subscription = this.live.subscribe({
        next: (told) => told.projectId === projectId && send(told),
        complete: () => subscriber.complete(),
      });
      const beat = setInterval(() => subscriber.next({ type: 'beat', data: '' }), 15_000);
      const [run, number] = lastId?.split('-') ?? [];
      if (lastId !== undefined) {
        const missed = this.told.filter((t) => t.number > Number(number));
        const whole = run === this.run && this.last - Number(number) === missed.length;
        if (whole) missed.filter((t) => t.projectId === projectId).forEach(send);
        else send({ number: this.last, projectId, event: { type: 'reset' } });
      }
      return () => {
        clearInterval(beat);
        subscription.unsubscribe();
      };
    });
  }

  beforeApplicationShutdown(): void {
    this.live.complete();
  }
}
