import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderOpen, Plus } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import { ErrorNote } from '../ui/error-note';
import { Header } from './header';

/** All projects. */
export function ProjectRoom() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: api.projects, retry: false });
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = useMutation({
    mutationFn: api.createProject,
    onSuccess: (project) => {
      void client.invalidateQueries({ queryKey: ['projects'] });
      void navigate(`/projects/${project.id}`);
    },
  });
  const onSubmit = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim()) create.mutate(name.trim());
  };
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
                <li key={project.id}>
                  <Link
                    to={`/projects/${project.id}`}
                    className="flex items-center gap-3 px-4 py-3 hover:bg-base-300/50"
                  >
                    <FolderOpen size={17} className="text-primary" aria-hidden />
                    <span className="flex-1 font-medium">{project.name}</span>
                    <span className="text-base-content/60">
                      {project.clips === 1 ? '1 clip' : `${project.clips} clips`}
                    </span>
                  </Link>
                </li>
              ))}
            </ul>
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
          </div>
        </main>
      )}
    </div>
  );
}
