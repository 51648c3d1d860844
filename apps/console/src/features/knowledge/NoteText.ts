import MarkdownIt from 'markdown-it';
import { defineComponent, h } from 'vue';

/**
 * Markdown as CommonMark has it, without what a note must not do to whoever reads it: no HTML of its own, no picture from
 * elsewhere (that would tell whose it is who reads what, and when), no address but of pages and mail.
 */
const markdown = new MarkdownIt('commonmark', { html: false }).disable('image');
markdown.validateLink = (address) => /^(https?:|mailto:)/i.test(address.trim());
const openLink = markdown.renderer.rules.link_open;
markdown.renderer.rules.link_open = (tokens, at, options, env, self) => {
  tokens[at]?.attrSet('target', '_blank');
  tokens[at]?.attrSet('rel', 'noopener noreferrer');
  return openLink ? openLink(tokens, at, options, env, self) : self.renderToken(tokens, at, options);
};
// The page has its own first headings: a note's come beneath them.
for (const rule of ['heading_open', 'heading_close'] as const)
  markdown.renderer.rules[rule] = (tokens, at, options, _env, self) => {
    const token = tokens[at];
    if (token) token.tag = `h${Math.min(6, Number(token.tag.slice(1)) + 2)}`;
    return self.renderToken(tokens, at, options);
  };

/** The text of a knowledge note. */
export default defineComponent({
  props: { text: { type: String, required: true } },
  // What the reader above makes has none but its own tags.
  setup: (props) => () => h('div', { class: 'note-text', innerHTML: markdown.render(props.text) }),
});
