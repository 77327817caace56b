import { LogbookPage } from '@/logbook/page';

export default function Page() {
  return <LogbookPage />;
}
