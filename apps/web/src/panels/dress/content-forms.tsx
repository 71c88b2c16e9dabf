import type { FillContent, LayerContent, RepairContent } from '@lurn/core';
import type { ReactNode } from 'react';
import { isRepair } from '../../state/brush';
import type { LayerOfClip } from '../../state/document';
import { Strokes } from './brush-settings';
import { ClipSettings, ColourSettings, CoverSettings, TextSettings } from './content-settings';
import { Slider } from './fields';

interface FormProps<C> {
  layer: LayerOfClip;
  content: C;
  onChange: (content: C) => void;
}

/** What is asked of a kind of content, and which of the common settings it has. */
export interface ContentForm<C = LayerContent> {
  Form?: (props: FormProps<C>) => ReactNode;
  /** It is laid over what is there, by a mode. */
  blends: boolean;
  /** It can be softened and grained like what is about it. */
  sits: boolean;
  /** It hides something: frames on which it may not are told. */
  hides?: boolean;
}

function FillSettings({ content, onChange }: FormProps<FillContent>) {
  return (
    <>
      <Slider
        label="Of frames"
        value={content.frames}
        text={`${content.frames}`}
        least={3}
        most={41}
        onChange={(frames) => onChange({ ...content, frames: Math.round(frames) })}
      />
      <Follows content={content} onChange={onChange} />
    </>
  );
}

function RepairSettings({ layer, content, onChange }: FormProps<RepairContent> & { layer: LayerOfClip }) {
  return (
    <>
      {isRepair(layer) && <Strokes layer={layer} />}
      <Follows content={content} onChange={onChange} />
    </>
  );
}

function Follows<C extends { follow: boolean }>({
  content,
  onChange,
}: Pick<FormProps<C>, 'content' | 'onChange'>) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs rounded-[3px]"
        checked={content.follow}
        onChange={({ target: { checked } }) => onChange({ ...content, follow: checked })}
      />
      Takes on each frame’s light and grain
    </label>
  );
}

/** The page's part of every kind of content. */
export const contentForms: { [K in LayerContent['kind']]: ContentForm<Extract<LayerContent, { kind: K }>> } =
  {
    cover: { Form: CoverSettings, blends: true, sits: false, hides: true },
    colour: { Form: ColourSettings, blends: false, sits: false },
    picture: { blends: true, sits: true },
    clip: { Form: ClipSettings, blends: true, sits: true },
    text: { Form: TextSettings, blends: true, sits: true },
    fill: { Form: FillSettings, blends: true, sits: true },
    repair: { Form: RepairSettings, blends: true, sits: true },
  };
