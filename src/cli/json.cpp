#include "cli/json.hpp"
#include "cli/output.hpp"

#include <fmt/core.h>

namespace orchard::cli {

void print_json(const Json& document) {
  print("{}\n", report::text_of(document));
}

}  // namespace orchard::cli
