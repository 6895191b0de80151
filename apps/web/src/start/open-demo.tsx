import { useQuery } from '@tanstack/react-query';
import { Navigate, useParams } from 'react-router';
import { type DemoName, DEMOS, openDemo } from '../opening.ts';

export function OpenDemo() {
  const { name = 'courtyard' } = useParams();
  const wanted: DemoName = Object.hasOwn(DEMOS, name) ? (name as DemoName) : 'courtyard';
  const { data: id, error } = useQuery({ queryKey: ['demo', wanted], queryFn: () => openDemo(wanted), gcTime: 0 });
  if (error) throw error;
  return id ? <Navigate to={`/document/${id}/build-up`} replace /> : <main className="h-full bg-field" aria-busy="true" aria-label="Opening the demo" />;
}
