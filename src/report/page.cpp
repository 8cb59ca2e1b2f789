#include "report/page.hpp"

#include <sstream>

#include "base/utf8.hpp"

namespace orchard::report {
namespace {

constexpr std::string_view style = R"(
:root{--ink:#1d2b24;--soft:#5c6b62;--line:#d5ded8;--paper:#fbfcfa;--good:#1f5fa8;--bad:#b4460f;--unknown:#6b6b6b;--shade:#eef3ef}
@media(prefers-color-scheme:dark){:root{--ink:#e3ebe5;--soft:#a3b3a9;--line:#38443d;--paper:#161c18;--good:#7db4ee;--bad:#f0985f;--unknown:#b0b0b0;--shade:#202823}}
*{box-sizing:border-box}
body{margin:0 auto;max-width:70rem;padding:1.2rem;background:var(--paper);color:var(--ink);font:16px/1.5 system-ui,"DejaVu Sans",sans-serif}
h1{font-size:1.6rem;margin:0 0 .2rem}h2{font-size:1.2rem;margin:2rem 0 .6rem;border-bottom:1px solid var(--line)}h3{font-size:1rem;margin:1.4rem 0 .3rem}
p.lead{color:var(--soft);margin:.1rem 0 1rem}
table{border-collapse:collapse;width:100%}td,th{text-align:left;vertical-align:top;padding:.3rem .6rem .3rem 0;border-bottom:1px solid var(--line)}
td.id{font-family:ui-monospace,"DejaVu Sans Mono",monospace;white-space:nowrap}td.claim{min-width:14rem}td.evidence{white-space:pre-wrap}
.v{font-weight:600;white-space:nowrap}.holds{color:var(--good)}.fails,.suspicious{color:var(--bad)}.unknown{color:var(--unknown)}.described{color:var(--soft);font-weight:400}
.count{display:inline-block;margin-right:1.2rem}.count b{font-size:1.3rem}
ol.line{font-family:ui-monospace,"DejaVu Sans Mono",monospace;font-size:.85rem;columns:18rem;margin:.4rem 0;padding-left:2.6rem}
.boards{display:flex;flex-wrap:wrap;gap:1rem}.boards figure{margin:0;max-width:100%}.boards img{max-width:100%;width:17rem;height:auto;border:1px solid var(--line);border-radius:4px}
figcaption{font-size:.85rem;color:var(--soft)}
pre.rules{font:12.5px/1.45 ui-monospace,"DejaVu Sans Mono",monospace;overflow-x:auto;margin:0;border:1px solid var(--line);border-radius:4px}
pre.rules span{display:block;padding:0 .6rem;border-left:4px solid transparent}pre.rules .used{border-color:var(--good)}pre.rules .never{border-color:var(--bad);background:var(--shade);font-weight:600}
pre.rules .part{border-color:var(--unknown)}pre.rules b{font-weight:400;color:var(--bad)}
pre.rules i{font-style:normal;color:var(--soft);display:inline-block;width:3.2em}
svg.chart{width:100%;height:auto;max-width:52rem}svg.chart text{fill:var(--soft);font:11px system-ui,"DejaVu Sans",sans-serif}
@media print{body{max-width:none}section{break-inside:avoid}}
@media(max-width:40rem){td,th{display:block;border:0;padding:.1rem 0}tr{display:block;border-bottom:1px solid var(--line);padding:.4rem 0}td.id{white-space:normal}}
)";

}  // namespace

using pugi::xml_node;

xml_node add_html(xml_node parent, const char* name, std::initializer_list<Attribute> attributes,
                  std::string_view text) {
  const xml_node element = add_element(parent, name, attributes);
  xml_node(element).append_child(pugi::node_pcdata).set_value(safe_for_markup(text).c_str());
  return element;
}

void add_text(xml_node parent, std::string_view text) {
  parent.append_child(pugi::node_pcdata).set_value(safe_for_markup(text).c_str());
}

Page::Page(std::string_view title, std::string_view heading) {
  const xml_node html = add_html(page_, "html", {{"lang", "en"}});
  const xml_node head = add_html(html, "head", {});
  add_element(head, "meta", {{"charset", "utf-8"}});
  add_element(head, "meta",
              {{"name", "viewport"}, {"content", "width=device-width,initial-scale=1"}});
  add_html(head, "title", {}, title);
  add_html(head, "style", {}, style);
  body_ = add_html(html, "body", {});
  add_html(body_, "h1", {}, heading);
}

std::string Page::text() const {
  std::ostringstream stream;
  // Raw: every space in the rules counts.
  page_.save(stream, "", pugi::format_raw | pugi::format_no_declaration, pugi::encoding_utf8);
  return "<!DOCTYPE html>\n" + stream.str() + "\n";
}

}  // namespace orchard::report
