// JSON on standard output: documents come from the library.
#pragma once

#include "report/json.hpp"

namespace orchard::cli {

using report::document_of;
using report::fluents_json;
using report::line_json;
using report::narrow_to_view;

// One document and a line break.
void print_json(const Json& document);

}  // namespace orchard::cli
