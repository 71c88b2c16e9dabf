import type { ProjectCard } from '@lurn/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderOpen, PackageOpen, Plus } from 'lucide-react';
import { useEffect, useRef, useState, type FormEvent } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { onProjectRead, sendProject, useUploads } from '../state/uploads';
import { Dropdown } from '../ui/dropdown';
import { ErrorNote } from '../ui/error-note';
import { percent } from '../ui/format';
import { NameField } from '../ui/name-field';
import { Header } from './header';

/** All projects. */
export function ProjectsPage() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: api.projects, retry: false });
  const client = useQueryClient();
  const refresh = (): void => void client.invalidateQueries({ queryKey: ['projects'] });
  useEffect(() => onProjectRead(() => void client.invalidateQueries({ queryKey: ['projects'] })), [client]);
  return (
    <div className="flex h-full flex-col">
      <Header />
      {projects.isError ? (
        <ErrorNote message={projects.error.message}>
          <button className="btn btn-sm" onClick={() => void projects.refetch()}>
            Try again
          </button>
        </ErrorNote>
      ) : (
        <main className="min-h-0 flex-1 overflow-y-auto">
          <div className="mx-auto max-w-xl px-6 py-12">
            <h1 className="text-2xl font-semibold tracking-tight">Projects</h1>
            <p className="mt-1 text-base-content/70">
              Follow something through a clip; hold it still, or take the shake out.
            </p>
            <ul className="mt-6 divide-y divide-base-300 rounded-box border border-base-300 bg-base-200">
              {projects.isPending && (
                <li className="p-4">
                  <span className="loading loading-spinner loading-sm" aria-label="Loading" />
                </li>
              )}
              {projects.data?.length === 0 && (
                <li className="p-4 text-base-content/70">No project yet. Name the first one below.</li>
              )}
              {projects.data?.map((project) => (
                <Row key={project.id} project={project} onChange={refresh} />
              ))}
            </ul>
            <NewProject />
            <OpenProject />
            <Cores />
          </div>
        </main>
      )}
    </div>
  );
}

function Row({ project, onChange }: { project: ProjectCard; onChange: () => void }) {
  const [renaming, setRenaming] = useState(false);
  const change = (work: () => Promise<unknown>): void => void attempt(work).then(onChange);
  const remove = (): void =>
    change(async () => {
      await api.deleteProject(project.id);
      toast(`“${project.name}” is deleted.`, {
        duration: 12_000,
        action: { label: 'Undo', onClick: () => change(() => api.restoreProject(project.id)) },
      });
    });
  const save = (media: boolean): void => {
    const link = document.createElement('a');
    link.href = `/api/projects/${project.id}/package${media ? '?media=1' : ''}`;
    link.download = '';
    link.click();
  };
  return (
    <li className="flex items-center gap-2 pr-2 hover:bg-base-300/50" data-testid="project-row">
      {renaming ? (
        <div className="flex-1 px-4 py-2">
          <NameField
            label="Name of the project"
            name={project.name}
            onKeep={(name) => change(() => api.renameProject(project.id, name))}
            onDone={() => setRenaming(false)}
          />
        </div>
      ) : (
        <Link to={`/projects/${project.id}`} className="flex min-w-0 flex-1 items-center gap-3 px-4 py-3">
          <FolderOpen size={17} className="shrink-0 text-primary" aria-hidden />
          <span className="min-w-0 flex-1 truncate font-medium">{project.name}</span>
          <span className="text-base-content/75">
            {project.clips === 1 ? '1 clip' : `${project.clips} clips`}
          </span>
        </Link>
      )}
      <Dropdown
        label={`More about ${project.name}`}
        items={[
          { label: 'Rename', run: () => setRenaming(true) },
          { label: 'Duplicate', run: () => change(() => api.duplicateProject(project.id)) },
          { label: 'Save to a file', run: () => save(false) },
          { label: 'Save with its media', run: () => save(true) },
          { label: 'Delete', run: remove, danger: true },
        ]}
      />
    </li>
  );
}

function NewProject() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = useMutation({
    mutationFn: api.createProject,
    onSuccess: (project) => {
      void client.invalidateQueries({ queryKey: ['projects'] });
      void navigate(`/projects/${project.id}`);
    },
    onError: (error) => toast.error(error.message),
  });
  const onSubmit = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim()) create.mutate(name.trim());
  };
  return (
    <form className="mt-4 flex gap-2" onSubmit={onSubmit}>
      <input
        className="input input-sm flex-1"
        placeholder="Name of a new project"
        aria-label="Name of a new project"
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <button className="btn btn-sm btn-primary" disabled={!name.trim() || create.isPending}>
        <Plus size={15} aria-hidden /> Create
      </button>
    </form>
  );
}

/** Brings a project in that was saved to a file. */
function OpenProject() {
  const picker = useRef<HTMLInputElement>(null);
  const coming = useUploads((s) => s.sending).filter((s) => s.project === '');
  return (
    <div className="mt-3 flex items-center gap-3 text-base-content/70">
      <button className="btn btn-ghost btn-sm -ml-3" onClick={() => picker.current?.click()}>
        <PackageOpen size={15} aria-hidden /> Open a saved project
      </button>
      {coming.map(({ id, name, share }) => (
        <span key={id} role="status">
          {name}, {percent(share, 0)}
        </span>
      ))}
      <input
        ref={picker}
        type="file"
        accept=".zip"
        hidden
        data-testid="project-picker"
        onChange={(event) => {
          [...(event.target.files ?? [])].forEach(sendProject);
          event.target.value = '';
        }}
      />
    </div>
  );
}

/** How much of the machine work may take. */
function Cores() {
  const client = useQueryClient();
  const settings = useQuery({ queryKey: ['settings'], queryFn: api.settings });
  const choose = (cores: number): Promise<void> =>
    attempt(async () => client.setQueryData(['settings'], await api.useCores(cores)));
  if (!settings.data || settings.data.mostCores < 2) return null;
  const { cores, mostCores } = settings.data;
  return (
    <label className="mt-10 flex items-center gap-2 border-t border-base-300 pt-4 text-base-content/70">
      Reading, following and exporting may take
      <select
        className="select select-xs w-auto"
        aria-label="Cores that work may take"
        value={cores}
        onChange={(event) => void choose(Number(event.target.value))}
      >
        {Array.from({ length: mostCores }, (_, i) => i + 1).map((n) => (
          <option key={n} value={n}>
            {n === mostCores ? `all ${n} cores` : n === 1 ? '1 core' : `${n} cores`}
          </option>
        ))}
      </select>
      of this machine.
    </label>
  );
}
