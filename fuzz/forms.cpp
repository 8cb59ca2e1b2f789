// Any text as forms and as a term: what reads without a fault writes and reads back the same.
#include <cstdint>

#include "orchard/format.hpp"
#include "orchard/term.hpp"
#include "syntax/reader.hpp"

namespace {

std::string canonical(const std::string& text, orchard::Diagnostics& diagnostics) {
  return orchard::syntax::read(orchard::syntax::Source("fuzz", text), {}, diagnostics)
      .canonical_text();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  orchard::Diagnostics diagnostics;
  const std::string once = canonical(text, diagnostics);
  (void)diagnostics.render();
  if (diagnostics.empty() && text.find('"') == std::string::npos) {
    orchard::Diagnostics again;
    if (canonical(once, again) != once || !again.empty()) __builtin_trap();
  }
  const auto laid_out = orchard::format_text(text, "fuzz.gdl");
  if (laid_out.ok() != diagnostics.empty()) __builtin_trap();
  if (laid_out && orchard::format_text(*laid_out, "fuzz.gdl").value() != *laid_out)
    __builtin_trap();
  const auto term = orchard::Term::parse(text);
  if (!term) return 0;
  const auto back = orchard::Term::parse(term->to_string());
  if (!back || *back != *term || back->hash() != term->hash()) __builtin_trap();
  return 0;
}
