/** What is dragged and where it can be dropped: photos of the page by id, and pages. */
export const dropId = {
  photo: (photoId: number) => `photo-${photoId}`,
  page: (pageId: number) => `page-${pageId}`,
}
