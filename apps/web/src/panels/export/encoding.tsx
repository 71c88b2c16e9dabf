import { useQuery } from '@tanstack/react-query';
import type { ExportRequest } from '@lurn/contract';
import type { ReactNode } from 'react';
import { codecKinds } from '@lurn/core';
import { api } from '../../api/client';
import { useDocument } from '../../state/document';
import { exportPresets, useExporting } from '../../state/exporting';
import { Fold } from '../../ui/fold';

/** What the movie is written as: by what it is for, or each setting by itself. */
export function Encoding() {
  const request = useExporting((s) => s.request);
  const { comparison, treated, only } = request;
  const clipName = useDocument((s) => s.clip?.name.replace(/\.[^.]*$/, '') ?? '');
  const settings = useQuery({ queryKey: ['settings'], queryFn: api.settings });
  const set = (part: ExportRequest): void => useExporting.setState({ request: { ...request, ...part } });
  const preset = exportPresets.find(
    ({ request: one }) =>
      one.codec === request.codec && one.container === request.container && request.bits === undefined,
  );
  const facts = codecKinds[request.codec ?? 'h264'];
  return (
    <>
      <select
        className="select select-sm w-full"
        value={preset?.id ?? 'own'}
        aria-label="What the movie is for"
        onChange={({ target: { value } }) => {
          const chosen = exportPresets.find(({ id }) => id === value);
          if (chosen) useExporting.setState({ request: { comparison, treated, only, ...chosen.request } });
        }}
      >
        {exportPresets.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        {!preset && <option value="own">Own settings</option>}
      </select>
      <Fold name="Settings">
        <div className="space-y-1.5 pt-1" data-testid="encoding">
          <Setting label="Codec">
            <select
              className="select select-xs w-36"
              value={request.codec ?? 'h264'}
              onChange={({ target: { value } }) => {
                const codec = value as NonNullable<ExportRequest['codec']>;
                const [container] = codecKinds[codec].containers;
                useExporting.setState({ request: { comparison, treated, only, codec, container } });
              }}
            >
              {Object.entries(codecKinds).map(([codec, { name }]) => (
                <option key={codec} value={codec}>
                  {name}
                </option>
              ))}
            </select>
          </Setting>
          <Setting label="File">
            <select
              className="select select-xs w-36"
              value={request.folder === undefined ? (request.container ?? facts.containers[0]) : 'folder'}
              onChange={({ target: { value } }) =>
                value === 'folder'
                  ? set({ container: 'png', folder: `${clipName}-held` })
                  : set({ container: value as ExportRequest['container'], folder: undefined })
              }
            >
              {facts.containers.map((one) => (
                <option key={one} value={one}>
                  {one === 'png' ? 'zip of pictures' : one.toUpperCase()}
                </option>
              ))}
              {request.codec === 'png' && settings.data?.exportsFolder && (
                <option value="folder">folder of pictures</option>
              )}
            </select>
          </Setting>
          {request.folder !== undefined && (
            <Setting label="Folder">
              <input
                className="input input-xs w-36"
                value={request.folder}
                maxLength={80}
                onChange={({ target: { value } }) => set({ folder: value })}
              />
            </Setting>
          )}
          <Setting label="Bits a level">
            <select
              className="select select-xs w-36"
              value={request.bits ?? 'own'}
              onChange={({ target: { value } }) =>
                set({ bits: value === 'own' ? undefined : (Number(value) as ExportRequest['bits']) })
              }
            >
              <option value="own">as the clip has</option>
              {facts.bits.map((bits) => (
                <option key={bits} value={bits}>
                  {bits}
                </option>
              ))}
            </select>
          </Setting>
        </div>
      </Fold>
    </>
  );
}

export function Setting({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </label>
  );
}
