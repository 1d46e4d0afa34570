/** The made-up timetable of Lodos Ferries. */
export interface Sailing {
  id: string;
  from: string;
  to: string;
  time: string;
  name: string;
  fare: number;
  cancelled?: boolean;
}

export const ports = [
  'Lodos Harbour',
  'Kuzu Island',
  'Kuzey Point',
  'Martı Bay',
  "Shepherd's Quay",
  'Poyraz Cape',
  'Old Lighthouse',
  'Yakamoz Pier',
];
export const popularPorts = ['Lodos Harbour', 'Martı Bay', 'Old Lighthouse'];

export const sailings: Sailing[] = [
  { id: 'm-0710', from: 'Lodos Harbour', to: 'Kuzu Island', time: '07:10', name: 'Morning sailing', fare: 318 },
  {
    id: 'n-1220',
    from: 'Lodos Harbour',
    to: 'Kuzu Island',
    time: '12:20',
    name: 'Noon sailing',
    fare: 356,
    cancelled: true,
  },
  { id: 'e-1840', from: 'Lodos Harbour', to: 'Kuzu Island', time: '18:40', name: 'Evening sailing', fare: 412 },
  { id: 'l-2130', from: 'Lodos Harbour', to: 'Kuzu Island', time: '21:30', name: 'Late sailing', fare: 290 },
  { id: 's-0900', from: 'Lodos Harbour', to: "Shepherd's Quay", time: '09:00', name: 'Quay sailing', fare: 205 },
  { id: 'p-1500', from: 'Lodos Harbour', to: 'Poyraz Cape', time: '15:00', name: 'Cape sailing', fare: 264 },
];

export const taken = new Set(['1C', '1G', '2D', '2H', '3E', '4A', '4F']);
export const extras = { bicycle: 45, meal: 60, lounge: 110 } as const;
