/// <reference types="vite/client" />
/// <reference types="element-plus/global" />

declare module '@dragdroptouch/drag-drop-touch' {
  /** Turns touches into the drag events of HTML, on draggable elements. */
  export function enableDragDropTouch(
    dragRoot: Document,
    dropRoot: Document,
    options: { readonly isPressHoldMode: boolean },
  ): void
}
