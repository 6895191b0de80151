import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router';
import { openDemo } from '../opening.ts';

export function OpenDemo() {
  const { data: id, error } = useQuery({ queryKey: ['demo'], queryFn: openDemo, gcTime: 0 });
  if (error) throw error;
  return id ? <Navigate to={`/document/${id}/build-up`} replace /> : <main className="h-full bg-field" aria-busy="true" aria-label="Opening the demo" />;
}
