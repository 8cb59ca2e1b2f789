// The names of a text while it is read: folded to lower case, kept alive for its tree, counted.
#pragma once

#include <absl/container/flat_hash_set.h>

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace orchard::syntax {

class NamePool {
 public:
  // Texts that differ from the source are put into `kept`, which outlives all views.
  explicit NamePool(std::vector<std::shared_ptr<const std::string>>& kept) : kept_(kept) {}

  // The name in lower case (ASCII): the view given, if it is so already. The text that it views
  // must outlive the tree.
  std::string_view folded(std::string_view text);
  // The same for a text of its own.
  std::string_view intern(std::string text);
  std::string_view keep(std::string text);
  // How many different names were noted, this one included.
  std::size_t note(std::string_view text) {
    names_.insert(text);
    return names_.size();
  }

 private:
  std::vector<std::shared_ptr<const std::string>>& kept_;
  absl::flat_hash_set<std::string_view> names_;
};

}  // namespace orchard::syntax
