/*
 * The small help box for other pages:
 *
 *   <script src="https://desk.example/embed.js" data-language="en" async></script>
 *
 * Puts a frame where the script stands. The frame asks nothing of the page around it and tells it nothing.
 */
(() => {
  const script = document.currentScript;
  if (!script) return;
  const { origin } = new URL(script.src);
  const frame = document.createElement('iframe');
  const language = script.dataset.language;
  frame.src = `${origin}/box${language ? `#language=${encodeURIComponent(language)}` : ''}`;
  frame.title = script.dataset.title || 'Help';
  frame.style.cssText = 'border:0;width:100%;max-width:22rem;height:15rem';
  // It may open the desk's own pages, and nothing else.
  frame.setAttribute(
    'sandbox',
    'allow-scripts allow-forms allow-popups allow-popups-to-escape-sandbox allow-same-origin',
  );
  script.insertAdjacentElement('afterend', frame);
})();
