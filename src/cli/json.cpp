#include "cli/json.hpp"

#include <fmt/core.h>

namespace orchard::cli {

void print_json(const Json& document) {
  fmt::print("{}\n", report::text_of(document));
}

}  // namespace orchard::cli
