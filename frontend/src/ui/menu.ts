/* How a menu and an item of it look. */
export const MENU = "z-50 rounded-md border border-rule bg-chalk p-1 shadow-lg";
export const MENU_ITEM = "rounded-md px-3 py-1 outline-none data-[highlighted]:bg-permanganate-tint";
