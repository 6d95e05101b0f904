export const match = (value: string): value is 'csv' | 'json' => value === 'csv' || value === 'json';
