import { parsePixelAspect } from '@lurn/core';
import { useLayoutEffect, useRef, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { LowerArea } from '../lanes/lower-area';
import { StepsPanel } from '../panels/steps-panel';
import { heightBeside } from '../stage/panes';
import { Stage } from '../stage/stage';
import { useDocument } from '../state/document';
import { Sound } from './sound';
import { Transport } from './transport';

/** Of the page's height at least so much is left to what lies below the stage, pixels; the rest is the stage's. */
const leastBelow = 230;
const leastStage = 160;
const panelWidth = 288;

const splitter =
  'bg-base-300 outline-none transition-colors hover:bg-primary/60 focus-visible:bg-primary data-[separator=active]:bg-primary';

/** Stage, lanes and panel, each as large as the person has made it; at first as the clip's shape wants it. */
export function Workspace() {
  const clip = useDocument((s) => s.clip);
  const host = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<{ width: number; height: number } | null>(null);
  useLayoutEffect(() => {
    const { clientWidth, clientHeight } = host.current as HTMLDivElement;
    setSize({ width: clientWidth, height: clientHeight });
  }, []);
  const across = useDefaultLayout({ id: 'lurn-across', onlySaveAfterUserInteractions: true });
  // How high the stage is goes by the clip's shape: wide clips and upright ones are remembered apart.
  const shape = clip && clip.width >= clip.height ? 'wide' : 'upright';
  const down = useDefaultLayout({ id: `lurn-down-${shape}`, onlySaveAfterUserInteractions: true });
  return (
    <div ref={host} className="min-h-0 flex-1">
      {size && clip && (
        <Group
          orientation="horizontal"
          defaultLayout={across.defaultLayout}
          onLayoutChanged={across.onLayoutChanged}
        >
          <Panel id="main-area" minSize={480}>
            <Group
              orientation="vertical"
              defaultLayout={down.defaultLayout}
              onLayoutChanged={down.onLayoutChanged}
            >
              <Panel id="stage-area" minSize={leastStage} defaultSize={firstHeight(size, clip)}>
                <Stage />
              </Panel>
              <Separator className={`h-[3px] ${splitter}`} aria-label="Height of the stage" />
              <Panel id="time-area" minSize={120}>
                <main className="flex h-full flex-col" aria-label="Time">
                  <Transport />
                  <div className="min-h-0 flex-1">
                    <LowerArea />
                  </div>
                </main>
              </Panel>
            </Group>
          </Panel>
          <Separator className={`w-[3px] ${splitter}`} aria-label="Width of the panel" />
          <Panel
            id="steps-area"
            minSize={240}
            maxSize={520}
            defaultSize={panelWidth}
            groupResizeBehavior="preserve-pixel-size"
          >
            <StepsPanel />
          </Panel>
        </Group>
      )}
      <Sound />
    </div>
  );
}

/** As high as both pictures need to fill the width beside each other, where that leaves enough for the rest. */
function firstHeight(
  size: { width: number; height: number },
  { width, height, pixelAspect }: { width: number; height: number; pixelAspect: string },
): number {
  const shape = { width, height, pixelAspect: parsePixelAspect(pixelAspect) };
  const wanted = heightBeside(size.width - panelWidth - 3, shape);
  return Math.round(Math.max(leastStage, Math.min(wanted, size.height - leastBelow)));
}
