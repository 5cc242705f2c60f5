const button = document.getElementById('print');
button.hidden = false;
button.addEventListener('click', () => window.print());
