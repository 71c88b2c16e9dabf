import { Injectable } from '@nestjs/common';
import { IndexBuilder, type Clip, type ClipIndex } from '@lurn/media';

/** What is known of a clip while it is still being read. */
interface Early {
  media: Clip;
  builder: IndexBuilder;
}

/** The frames that a clip being read has shown so far, so that one can look at them already. */
@Injectable()
export class EarlyFrames {
  private readonly clips = new Map<string, Early>();

  /** The builder to read the clip with. */
  begin(id: string, media: Clip): IndexBuilder {
    const builder = new IndexBuilder();
    this.clips.set(id, { media, builder });
    return builder;
  }

  end(id: string): void {
    this.clips.delete(id);
  }

  /** How many frames there are so far; none when the clip is not being read. */
  count(id: string): number {
    return this.clips.get(id)?.builder.frames ?? 0;
  }

  /** Null when the clip is not being read. */
  of(id: string): { media: Clip; index: ClipIndex } | null {
    const early = this.clips.get(id);
    return early ? { media: early.media, index: early.builder.build() } : null;
  }
}
