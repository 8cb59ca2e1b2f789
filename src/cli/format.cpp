#include "orchard/format.hpp"

#include <fmt/core.h>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"

namespace orchard::cli {

Status format(const Call& call) {
  const auto limits = load_options(call);
  if (!limits) return report(call, limits.diagnostics());
  FormatOptions options;
  options.expand = call.flag("expand");
  options.sizes = limits->sizes;
  options.file_bytes = limits->file_bytes;
  options.nesting = limits->nesting;
  options.symbols = limits->symbols;
  options.forms = limits->forms;
  const auto output = call.text("output");
  if (const auto to = call.text("to")) {
    options.to = *to == "infix" ? Syntax::infix : Syntax::prefix;
  } else if (output) {
    options.to = syntax_of(*output);
  }
  const auto text = format_file(call.game, options);
  if (!text) return report(call, text.diagnostics());
  if (output) {
    const Diagnostics faults = write_whole_file(*output, *text);
    if (!faults.empty()) return report(call, faults);
  } else if (call.json()) {
    print_json(Json{{"text", *text}});
  } else {
    print("{}", *text);
  }
  return Status::done;
}

}  // namespace orchard::cli
