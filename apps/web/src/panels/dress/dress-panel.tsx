import {
  BrushCleaning,
  Camera,
  ChevronDown,
  ChevronUp,
  Copy,
  Eye,
  EyeOff,
  Film,
  Lock,
  LockOpen,
  Paintbrush,
  Palette,
  Image,
  Star,
  Trash2,
  Type,
} from 'lucide-react';
import { useRef } from 'react';
import { useAction } from '../../actions/use-action';
import { useDocument, type LayerOfClip } from '../../state/document';
import {
  addClip,
  addLayer,
  addPicture,
  addText,
  changeLayer,
  copyLayer,
  copyLayerTo,
  moveLayer,
  removeLayer,
  useLayers,
} from '../../state/layers';
import { IconToggle } from '../../ui/icon-toggle';
import { Section } from '../section';
import { useView } from '../../state/view';
import { BrushSettings } from './brush-settings';
import { useClipsBeside } from './clips-beside';
import { LayerSettings } from './layer-settings';

/** What is drawn once and carried along: covers, changes of colour, pictures. */
export function DressPanel() {
  const layers = useDocument((s) => s.layers);
  const selected = useLayers((s) => s.selected);
  const tool = useView((s) => s.tool);
  const chosen = layers.find(({ id }) => id === selected);
  return (
    <>
      <Section title="Layers">
        <AddButtons />
        {layers.length === 0 ? (
          <p className="mt-2.5 leading-snug text-base-content/75">
            Cover a face or a number, change a colour, hang a picture. It rides on the chosen tracks, or on
            what is held of the scene, and is drawn in steadying and export.
          </p>
        ) : (
          <ul className="mt-2.5 space-y-0.5" aria-label="Layers, the top one first">
            {layers.map((layer, i) => (
              <Row
                key={layer.id}
                layer={layer}
                place={i}
                count={layers.length}
                isSelected={layer.id === selected}
              />
            ))}
          </ul>
        )}
      </Section>
      {(tool === 'brush' || chosen?.content.kind === 'repair') && <BrushSettings />}
      {chosen && <LayerSettings layer={chosen} />}
      {chosen && <CopyElsewhere layer={chosen} />}
    </>
  );
}

function AddButtons() {
  const input = useRef<HTMLInputElement>(null);
  const clip = useDocument((s) => s.clip);
  const other = useClipsBeside().at(0);
  const brush = useAction('brush');
  return (
    <div className="grid grid-cols-2 gap-1.5">
      <button className="btn btn-sm btn-primary btn-soft" onClick={() => void addLayer('cover')}>
        <EyeOff size={14} aria-hidden /> Cover
      </button>
      <button className="btn btn-sm btn-primary btn-soft" onClick={() => void addLayer('colour')}>
        <Palette size={14} aria-hidden /> Colour
      </button>
      <button
        className="btn btn-sm btn-primary btn-soft"
        title="Takes what passes away: what is inside the outline comes from frames on which it is seen"
        onClick={() => void addLayer('fill')}
      >
        <BrushCleaning size={14} aria-hidden /> Fill in
      </button>
      <button
        className="btn btn-sm btn-primary btn-soft"
        title={brush.tip}
        aria-pressed={brush.isOn}
        onClick={brush.action.run}
      >
        <Paintbrush size={14} aria-hidden /> Repair
      </button>
      <button className="btn btn-sm btn-primary btn-soft" onClick={() => input.current?.click()}>
        <Image size={14} aria-hidden /> Picture
      </button>
      <button className="btn btn-sm btn-primary btn-soft" onClick={() => void addText()}>
        <Type size={14} aria-hidden /> Text
      </button>
      <button
        className="btn btn-sm btn-primary btn-soft"
        disabled={!other}
        title={other ? undefined : 'There is no other clip in this project.'}
        onClick={() => other && void addClip(other, 'loop')}
      >
        <Film size={14} aria-hidden /> Clip
      </button>
      <button className="btn btn-sm btn-primary btn-soft" onClick={() => clip && void addClip(clip, 'still')}>
        <Camera size={14} aria-hidden /> Still
      </button>
      <input
        ref={input}
        type="file"
        hidden
        accept="image/png,image/jpeg,image/webp,image/tiff"
        data-testid="picture-file"
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          if (file) void addPicture(file);
          target.value = '';
        }}
      />
    </div>
  );
}

/** What is dragged from row to row; nothing else takes it. */
const rowKind = 'application/x-lurn-layer';

interface RowProps {
  layer: LayerOfClip;
  place: number;
  count: number;
  isSelected: boolean;
}

function Row({ layer, place, count, isSelected }: RowProps) {
  const { id, name, hidden, locked, solo } = layer;
  return (
    <li
      className={`flex items-center rounded-field ${isSelected ? 'bg-base-300' : ''}`}
      draggable
      data-testid="layer-row"
      onDragStart={({ dataTransfer }) => {
        dataTransfer.setData(rowKind, id);
        dataTransfer.effectAllowed = 'move';
      }}
      onDragOver={(event) => event.dataTransfer.types.includes(rowKind) && event.preventDefault()}
      onDrop={({ dataTransfer }) => {
        const dragged = dataTransfer.getData(rowKind);
        if (dragged && dragged !== id) void moveLayer(dragged, place);
      }}
    >
      <button
        className={`btn btn-ghost btn-xs min-w-0 flex-1 justify-start font-normal ${hidden ? 'opacity-60' : ''}`}
        aria-pressed={isSelected}
        onClick={() => useLayers.setState({ selected: isSelected ? null : id })}
      >
        <span className="truncate">{name}</span>
      </button>
      <IconToggle
        label={`Move ${name} up`}
        disabled={place === 0}
        onClick={() => void moveLayer(id, place - 1)}
      >
        <ChevronUp size={13} />
      </IconToggle>
      <IconToggle
        label={`Move ${name} down`}
        disabled={place === count - 1}
        onClick={() => void moveLayer(id, place + 1)}
      >
        <ChevronDown size={13} />
      </IconToggle>
      <IconToggle
        label={`Show ${name} alone`}
        pressed={solo}
        onClick={() => changeLayer(id, { solo: !solo })}
      >
        <Star size={13} className={solo ? 'text-primary' : ''} />
      </IconToggle>
      <IconToggle
        label={hidden ? `Show ${name}` : `Hide ${name}`}
        pressed={hidden}
        onClick={() => changeLayer(id, { hidden: !hidden })}
      >
        {hidden ? <EyeOff size={13} /> : <Eye size={13} />}
      </IconToggle>
      <IconToggle
        label={locked ? `Unlock ${name}` : `Lock ${name}`}
        pressed={locked}
        onClick={() => changeLayer(id, { locked: !locked })}
      >
        {locked ? <Lock size={13} /> : <LockOpen size={13} />}
      </IconToggle>
      <IconToggle label={`Copy ${name}`} onClick={() => void copyLayer(id)}>
        <Copy size={13} />
      </IconToggle>
      <IconToggle label={`Delete ${name}`} disabled={locked} onClick={() => void removeLayer(id)}>
        <Trash2 size={13} />
      </IconToggle>
    </li>
  );
}

/** Copies a layer to another clip of the project, where it lies on the frame itself until it is carried by something there. */
function CopyElsewhere({ layer }: { layer: LayerOfClip }) {
  const clips = useClipsBeside();
  if (clips.length === 0) return null;
  return (
    <Section title="To another clip">
      <select
        className="select select-xs w-full"
        value=""
        aria-label={`Copy ${layer.name} to another clip`}
        onChange={({ target: { value } }) => value && void copyLayerTo(layer.id, value)}
      >
        <option value="">Copy “{layer.name}” to …</option>
        {clips.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </Section>
  );
}
