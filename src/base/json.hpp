// JSON documents, compiled once for the whole library: whoever includes this header instead of the
// other project's own does not compile the members of a document again.
#pragma once

#include <nlohmann/json.hpp>

namespace orchard {

using Json = nlohmann::ordered_json;  // members stay in the order in which they were put in

}  // namespace orchard

extern template class nlohmann::basic_json<nlohmann::ordered_map>;
