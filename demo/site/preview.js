// While drafts are shown inside the console, it says when the working copy was saved: show it again, at the same place.
const { console: consoleOrigin } = document.currentScript.dataset
addEventListener('message', (event) => {
  if (event.origin !== consoleOrigin || event.data?.wisteria !== 'saved') return
  sessionStorage.setItem('scroll', String(scrollY))
  location.reload()
})
const scroll = sessionStorage.getItem('scroll')
sessionStorage.removeItem('scroll')
if (scroll !== null) addEventListener('load', () => scrollTo(0, Number(scroll)))
