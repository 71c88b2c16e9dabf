/** How every menu looks, wherever it opens. */
export const menuLook =
  'z-50 min-w-56 rounded-box border border-base-300 bg-base-100 p-1 text-[13px] shadow-lg outline-none';
export const itemLook =
  'flex cursor-default items-center gap-2.5 rounded-md px-2 py-1 outline-none select-none data-[disabled]:opacity-60 data-[highlighted]:bg-base-300';
export const lineLook = 'my-1 h-px bg-base-300';
