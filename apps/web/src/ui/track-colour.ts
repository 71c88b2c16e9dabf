/** Hues that stay apart for people who see red and green alike (after Okabe & Ito 2008, softened). */
const hues = ['#f0b45c', '#6cc5e0', '#e58fb1', '#7fcf9b', '#d9dc6a', '#a9a4f0', '#ef8b62', '#9fb7c4'];

export const trackColour = (position: number): string => hues[position % hues.length];
