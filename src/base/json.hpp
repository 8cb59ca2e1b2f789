// JSON documents, compiled once for the whole library: whoever includes this header instead of the
// other project's own does not compile the members of a document again.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

namespace orchard {

using Json = nlohmann::ordered_json;  // members stay in the order in which they were put in

// As text: on one line, or with so many blanks a level. What is no UTF-8 (a file name may hold
// anything) becomes U+FFFD.
std::string json_text(const Json& document, int indent = -1);

}  // namespace orchard

extern template class nlohmann::basic_json<nlohmann::ordered_map>;
