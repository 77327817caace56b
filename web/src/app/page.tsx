import { WorkshopPage } from '@/workshop/page';

export default function Page() {
  return <WorkshopPage />;
}
