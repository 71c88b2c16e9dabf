import { ActionTab } from '../actions/action-tab';
import { steps, useWorkspace, type Step } from '../state/workspace';
import { DressPanel } from './dress/dress-panel';
import { ExportPanel } from './export/export-panel';
import { FramingPanel } from './framing-panel';
import { OutputPanel } from './output-panel';
import { ScenePanel } from './scene-panel';
import { SteadyPanel } from './steady-panel';
import { TracksPanel } from './tracks-panel';

const names: Record<Step, string> = { follow: 'Follow', steady: 'Steady', dress: 'Dress', export: 'Export' };

/** The work in its order, one step at a time. */
export function StepsPanel() {
  const step = useWorkspace((s) => s.step);
  return (
    <aside className="flex h-full min-h-0 flex-col bg-base-200" aria-label="Steps">
      <div className="grid h-10 shrink-0 grid-cols-4 border-b border-base-300 bg-base-100" role="tablist">
        {steps.map((one, i) => (
          <StepTab key={one} step={one} number={i + 1} />
        ))}
      </div>
      <div
        className="min-h-0 flex-1 overflow-y-auto"
        role="tabpanel"
        id="step-panel"
        aria-labelledby={`step-${step}`}
        tabIndex={-1}
      >
        {step === 'follow' && (
          <>
            <ScenePanel />
            <TracksPanel />
          </>
        )}
        {step === 'steady' && (
          <>
            <SteadyPanel />
            <FramingPanel />
            <OutputPanel />
          </>
        )}
        {step === 'dress' && <DressPanel />}
        {step === 'export' && <ExportPanel />}
      </div>
    </aside>
  );
}

function StepTab({ step, number }: { step: Step; number: number }) {
  return (
    <ActionTab
      id={`step-${step}`}
      panel="step-panel"
      className="justify-center gap-1.5 px-0 aria-selected:font-semibold"
    >
      {(isOn) => (
        <>
          <span
            className={`flex size-4 shrink-0 items-center justify-center rounded-full text-[10.5px] ${isOn ? 'bg-primary text-primary-content' : 'bg-base-300'}`}
            aria-hidden
          >
            {number}
          </span>
          {names[step]}
        </>
      )}
    </ActionTab>
  );
}
