document.title = 'Zesty Porch';
