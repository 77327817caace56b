import { notFound } from 'next/navigation';
import { Sheet } from '@/sheet/sheet';
import { isStation } from '@/sheet/stations';

export default async function Page({ params }: { params: Promise<{ id: string; stage: string }> }) {
  const { id, stage } = await params;
  if (!isStation(stage)) notFound();
  return <Sheet id={id} station={stage} />;
}
