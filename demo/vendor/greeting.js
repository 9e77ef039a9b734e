// Says good evening in the console, as the night guide does at the door.
(function () {
  var hour = new Date().getHours()
  var word = hour < 5 || hour > 17 ? "Good evening" : "Welcome"
  window.fernlightGreeting = word + ", and mind the steps."
})()
