// Any text as the infix syntax: what reads without a fault is written back in both syntaxes, and
// reads the same.
#include <cstdint>

#include "orchard/format.hpp"
#include "syntax/reader.hpp"

namespace {

std::string forms_of(const std::string& text, const char* name) {
  orchard::Diagnostics diagnostics;
  const auto tree =
      orchard::syntax::read_by_name(orchard::syntax::Source(name, text), {}, diagnostics);
  if (!diagnostics.empty()) __builtin_trap();
  return tree.canonical_text();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto once = orchard::format_text(text, "fuzz.gdli");
  if (!once) {
    (void)once.diagnostics().render();
    return 0;
  }
  const std::string forms = forms_of(text, "fuzz.gdli");
  if (forms_of(*once, "fuzz.gdli") != forms) __builtin_trap();
  if (orchard::format_text(*once, "fuzz.gdli").value() != *once) __builtin_trap();
  if (text.find('"') != std::string::npos) return 0;  // strings stand only in #include
  orchard::FormatOptions prefix;
  prefix.to = orchard::Syntax::prefix;
  const std::string other = orchard::format_text(text, "fuzz.gdli", prefix).value();
  if (forms_of(other, "fuzz.gdl") != forms) __builtin_trap();
  return 0;
}
