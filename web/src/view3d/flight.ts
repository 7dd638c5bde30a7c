// What flying by keys has in common, in scout and with an unlocked camera.

/** Where each key goes: to the right, up, ahead. */
export const ways: Record<string, [number, number, number]> = {
  ArrowUp: [0, 0, 1],
  ArrowDown: [0, 0, -1],
  ArrowLeft: [-1, 0, 0],
  ArrowRight: [1, 0, 0],
  PageUp: [0, 1, 0],
  PageDown: [0, -1, 0],
}
/** How much faster it goes with Shift. */
export const brisk = 4

/** Whether a key is for what has the focus. */
export const typing = (e: KeyboardEvent) =>
  (e.target as HTMLElement).closest('input, textarea, select, [contenteditable], .el-select, .el-dialog')
/** Whether arrows are for what has the focus: a list, a row of tabs or choices, a slider. */
export const choosing = (e: KeyboardEvent) =>
  (e.target as HTMLElement).closest(
    '[role=tab], [role=radio], [role=option], [role=slider], [role^=menuitem], [role=spinbutton]',
  )
