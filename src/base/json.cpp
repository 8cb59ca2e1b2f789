#include "base/json.hpp"

template class nlohmann::basic_json<nlohmann::ordered_map>;

namespace orchard {

std::string json_text(const Json& document, int indent) {
  return document.dump(indent, ' ', false, Json::error_handler_t::replace);
}

}  // namespace orchard
