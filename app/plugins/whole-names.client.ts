/** A name that is cut for want of room is told whole where it is pointed at. */
export default defineNuxtPlugin(() => {
  document.addEventListener('pointerover', event => {
    const cut = (event.target as Element | null)?.closest?.<HTMLElement>('.truncate')
    if (!cut || (cut.closest('[title]') && cut.dataset.whole === undefined)) return
    if (cut.scrollWidth > cut.clientWidth) {
      cut.title = cut.textContent?.trim() ?? ''
      cut.dataset.whole = ''
    } else if (cut.dataset.whole !== undefined) {
      cut.removeAttribute('title')
      delete cut.dataset.whole
    }
  })
})
