// The table that a page shares with windows for each seat: where play stands, and what has been
// chosen. A window shows only what its role may see, and knows nothing but its own secret.
//
// Choices made in windows are told to the page when all are in, and to nobody before. Any thread
// may call.
#pragma once

#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <string>

#include "base/json.hpp"
#include "desk/request.hpp"
#include "orchard/view.hpp"

namespace orchard::desk {

// Unguessable, for addresses.
std::string random_token();

class Table {
 public:
  // A page tells where play stands, and which roles sit at windows. Gives the tokens of these and
  // of the window for onlookers, who has chosen, and the choices once all at windows have.
  Json set(const Asked& here, const Json& request);
  // Whether a window of that token was opened.
  bool has(const std::string& token) const;
  // What a window asks: {"seen": VERSION} and {"choose": MOVE}.
  Json look(const std::string& token, const Json& request);
  Json choose(const std::string& token, const Json& request);

 private:
  struct Window {
    std::string role;  // empty: of onlookers
    std::optional<View> view;
    std::optional<View> at_start;  // of the same rules: making one proves what excludes what
    std::shared_ptr<const Reading> of;
    std::size_t plies = 0;          // that the view has seen
    std::vector<std::string> made;  // those plies, to know them again
  };
  Json seen_by(Window& window);
  Json shown(Window& window);
  const View& view_of(Window& window, const Role& role);
  bool may_choose(const Role& role) const;  // it is its turn, if only to make its only move
  Json who_has_chosen() const;

  mutable std::mutex mutex_;
  std::map<std::string, Window> windows_;      // by token
  std::map<std::string, std::string> tokens_;  // by role; "" for onlookers
  std::optional<Asked> here_;
  bool turned_ = false;
  std::string standing_;  // what was told last, to know whether it is new
  std::map<std::string, std::string> choices_;
  std::set<std::string> seated_;  // roles at windows
  std::uint64_t version_ = 0;
};

}  // namespace orchard::desk
