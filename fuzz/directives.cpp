// Any text with directives: it is refused with diagnostics, or comes out as plain forms, which
// expand to themselves.
#include <cstdint>

#include "orchard/format.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  orchard::FormatOptions options;
  options.expand = true;
  options.nesting = 200;
  options.forms = 2'000;
  options.sizes["rows"] = 3;
  const auto plain = orchard::format_text(text, "/nonexistent/fuzz.gdl", options);
  if (!plain) {
    if (!plain.diagnostics().has_errors()) __builtin_trap();
    (void)plain.diagnostics().render();
    return 0;
  }
  options.sizes.clear();
  const auto again = orchard::format_text(*plain, "/nonexistent/fuzz.gdl", options);
  if (!again || *again != *plain) __builtin_trap();
  return 0;
}
