import { notFound } from 'next/navigation';
import { isStation } from '@/shared/stations';
import { SheetPage } from '@/sheet/page';

export default async function Page({ params }: { params: Promise<{ id: string; stage: string }> }) {
  const { id, stage } = await params;
  if (!isStation(stage)) notFound();
  return <SheetPage id={id} station={stage} />;
}
