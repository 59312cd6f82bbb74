// The first rows stand in the page before anything has run; whoever comes back to another screen, or
// to an address, does not see them.

if (location.hash.length > 1 || sessionStorage.length) {
  document.documentElement.classList.add('returning');
}
