// Before the first paint, so that night does not flash white.
(function () {
  var chosen = localStorage.getItem('lark-theme');
  var night = chosen ? chosen === 'night' : matchMedia('(prefers-color-scheme: dark)').matches;
  document.documentElement.classList.toggle('night', night);
})();
