// While drafts are shown inside the console, it says when the working copy was saved: show it again, at the same place.
const { console: consoleOrigin } = document.currentScript.dataset
addEventListener('message', (event) => {
  if (event.origin !== consoleOrigin || event.data?.wisteria !== 'saved') return
  // Kept in the history, which a frame has even where it may not store anything.
  history.replaceState({ scroll: scrollY }, '')
  location.reload()
})
if (history.state?.scroll !== undefined) addEventListener('load', () => scrollTo(0, history.state.scroll))
