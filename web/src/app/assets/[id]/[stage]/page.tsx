import { notFound } from 'next/navigation';
import { isStation } from '@/shared/stations';
import { Sheet } from '@/sheet/sheet';

export default async function Page({ params }: { params: Promise<{ id: string; stage: string }> }) {
  const { id, stage } = await params;
  if (!isStation(stage)) notFound();
  return <Sheet id={id} station={stage} />;
}
