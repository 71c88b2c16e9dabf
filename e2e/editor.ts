import { expect, type Locator, type Page } from '@playwright/test';

export interface TrackFile {
  tracks: {
    name: string;
    samples: { frame: number; x: number; y: number; confidence: number; state: string }[];
  }[];
}

/** How the stage says where its panes lie, CSS pixels. */
interface Pane {
  shiftX: number;
  shiftY: number;
  scaleX: number;
  scaleY: number;
}

/** The editor's page as a person uses it: looks, clicks, drags, keys. */
export class Editor {
  constructor(
    readonly page: Page,
    readonly clipId: string,
  ) {}

  get box(): Locator {
    return this.page.getByTestId('selected-box');
  }

  /** The frame whose picture is drawn. */
  async shown(): Promise<number> {
    return Number(await this.page.getByTestId('shown-frame').getAttribute('data-frame'));
  }

  async waitFor(frame: number): Promise<void> {
    await expect(this.page.getByTestId('shown-frame')).toHaveAttribute('data-frame', `${frame}`);
  }

  async go(frame: number): Promise<void> {
    await this.page.getByTestId('frame-number').fill(`${frame}`);
    await this.page.keyboard.press('Enter');
    await this.waitFor(frame);
  }

  /** Where a point of a pane's picture lies on the screen; of the source a clip point. */
  async onScreen(x: number, y: number, of = 'source'): Promise<{ x: number; y: number; scale: number }> {
    const stage = await this.page.getByTestId('stage').boundingBox();
    const panes = await this.page.getByTestId('stage').getAttribute('data-panes');
    if (!stage || !panes) throw new Error('There is no stage.');
    const [, pane] = (JSON.parse(panes) as [string, Pane][]).find(([kind]) => kind === of) ?? [];
    if (!pane) throw new Error(`The ${of} picture is not shown.`);
    return {
      x: stage.x + pane.shiftX + pane.scaleX * x,
      y: stage.y + pane.shiftY + pane.scaleY * y,
      scale: pane.scaleX,
    };
  }

  /** Places a point, having zoomed in on the place first. */
  async place(x: number, y: number): Promise<void> {
    const before = await this.page.getByTestId('track-row').count();
    const p = await this.onScreen(x, y);
    await this.page.mouse.move(p.x, p.y);
    await this.page.mouse.wheel(0, -700);
    await this.page.keyboard.press('p');
    await this.page.mouse.move(p.x + 1, p.y);
    await expect(this.page.getByTestId('loupe')).toHaveAttribute('data-ready', 'true');
    await this.page.mouse.move(p.x, p.y);
    await this.page.mouse.down();
    await this.page.mouse.up();
    await expect(this.page.getByTestId('track-row')).toHaveCount(before + 1);
    await this.page.keyboard.press('0');
  }

  /** Clicks on clip points, one after another. */
  async clickOn(points: readonly (readonly number[])[]): Promise<void> {
    for (const [x, y] of points) {
      const at = await this.onScreen(x, y);
      await this.page.mouse.click(at.x, at.y);
    }
  }

  /** Drags the selected box to a clip point, then nudges it there to a twentieth of a pixel. */
  async moveBox(x: number, y: number): Promise<void> {
    const { scale } = await this.onScreen(0, 0);
    const box = await this.box.boundingBox();
    if (!box) throw new Error('There is no box to drag.');
    const at = await this.boxAt();
    const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
    await this.page.mouse.move(from.x, from.y);
    await this.page.mouse.down();
    await this.page.mouse.move(
      Math.round(from.x + (x - at.x) * scale),
      Math.round(from.y + (y - at.y) * scale),
      {
        steps: 3,
      },
    );
    await this.page.mouse.up();
    await this.saved();
    const nudge = async (less: string, more: string, off: number): Promise<void> => {
      for (let i = Math.round(Math.abs(off) * 10); i > 0; i--)
        await this.page.keyboard.press(`Alt+${off < 0 ? less : more}`);
    };
    // What the server tells of earlier nudges may come late: look again until it stays there.
    await expect(async () => {
      const now = await this.boxAt();
      await nudge('ArrowLeft', 'ArrowRight', x - now.x);
      await nudge('ArrowUp', 'ArrowDown', y - now.y);
      await this.saved();
      await this.page.waitForTimeout(400);
      const there = await this.boxAt();
      expect(Math.hypot(there.x - x, there.y - y)).toBeLessThan(0.2);
    }).toPass({ timeout: 20_000 });
  }

  private async boxAt(): Promise<{ x: number; y: number }> {
    const group = this.page.locator('[data-testid=track-box]', { has: this.box });
    return {
      x: Number(await group.getAttribute('data-x')),
      y: Number(await group.getAttribute('data-y')),
    };
  }

  /** Goes to a step of the work. */
  async step(name: 'Follow' | 'Steady' | 'Dress' | 'Export'): Promise<void> {
    await this.page.getByRole('tab', { name }).click();
  }

  /** Shows something below the stage. */
  async below(name: 'Lanes' | 'Curves' | 'Tracks' | 'Trouble'): Promise<void> {
    await this.page.getByRole('tab', { name }).click();
  }

  async follow(key: string): Promise<void> {
    await this.page.keyboard.press(key);
    await expect(this.page.getByTestId('following')).toBeVisible();
    await expect(this.page.getByTestId('following')).toBeHidden({ timeout: 120_000 });
  }

  async saved(): Promise<void> {
    await expect(this.page.getByTestId('save-state')).toHaveText('Saved');
  }

  async tracks(): Promise<TrackFile['tracks']> {
    const response = await this.page.request.get(`/api/clips/${this.clipId}/tracks.json`);
    return ((await response.json()) as TrackFile).tracks;
  }
}

/** Uploads a file through the page and opens it. */
export async function openUploaded(page: Page, projectId: string, path: string): Promise<Editor> {
  await page.goto(`/projects/${projectId}`);
  const name = path.replace(/^.*\//, '');
  await page.getByTestId('file-picker').setInputFiles(path);
  await page.getByRole('link', { name, exact: true }).click({ timeout: 90_000 });
  await expect(page.getByTestId('shown-frame')).not.toHaveAttribute('data-frame', '-1', {
    timeout: 120_000,
  });
  return new Editor(page, page.url().replace(/^.*\//, ''));
}

export async function newProject(page: Page, name: string): Promise<string> {
  const response = await page.request.post('/api/projects', { data: { name } });
  return ((await response.json()) as { id: string }).id;
}
