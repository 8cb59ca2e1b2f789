// The texts that an editor has open, and what is known of them.
//
// Texts that belong together (rules, cases, claims, drawing rules of one name) are one *game* here.
// What is quick, the names of a text, is worked out when it is asked for; reading the rules,
// running cases and asking claims happens in the background, and work on a text that has changed
// meanwhile is given up. Any thread may call.
#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <thread>
#include <vector>

#include "editing/document.hpp"
#include "editing/names.hpp"
#include "editing/shelf.hpp"

namespace orchard::language_server {

using editing::Document;
using editing::Names;
using editing::Paper;
using editing::Reading;

// How a case or a claim came out.
struct Outcome {
  std::string name;
  bool good = false;
  bool decided = true;  // false: there was not enough time
  std::string words;    // "passes", "expected …, found …"
};

// What is known of a game, as of some moment.
struct Knowledge {
  std::shared_ptr<const Reading> reading;
  std::shared_ptr<const Reading> last_good;              // that read; null if none did yet
  std::map<std::string, std::string> texts;              // by path, as they were then
  std::map<std::string, Diagnostics> findings;           // by path
  std::map<std::string, std::vector<Outcome>> outcomes;  // by path of cases and claims
};

// One text with all that belongs to it.
struct Sight {
  Document document;
  std::int64_t version = 0;
  std::string path;
  std::shared_ptr<const Names> names;
  std::shared_ptr<const Names> rules;  // of the rules that it belongs to; null if there are none
  std::shared_ptr<const Knowledge> knowledge;  // null if nothing was read yet
  // Whether `knowledge` is of this very text.
  bool is_known() const;
};

// "file:///a%20b" ↔ "/a b"; what is no file keeps its name.
std::string path_of(const std::string& uri);
std::string uri_of(const std::string& path);

class Workspace {
 public:
  // Called in the background whenever more is known of an open text.
  using Told = std::function<void(const std::string& uri)>;

  Workspace(LoadOptions limits, Told told);
  ~Workspace();

  void open(const std::string& uri, std::string text, std::int64_t version);
  void set(const std::string& uri, Document document, std::int64_t version);
  void close(const std::string& uri);
  // A file may have changed that is not open.
  void files_changed();
  std::optional<Sight> sight(const std::string& uri) const;
  // The other texts of the same game: open ones, and files beside them.
  std::vector<Sight> companions(const std::string& uri) const;
  // Done in the background, after what has changed was looked at.
  void later(std::function<void()> work);

 private:
  struct Open {
    Document document;
    std::int64_t version = 0;
    std::string path;
  };
  struct Game {
    std::unique_ptr<editing::Shelf> shelf;
    std::string rules_path;
    std::shared_ptr<const Knowledge> knowledge;
  };
  using Texts = std::map<std::string, std::string>;  // by path

  Game& game_of(const std::string& stem);
  Texts texts_of(const std::string& stem) const;
  std::optional<std::string> text_at(const std::string& path) const;
  std::shared_ptr<const Names> names_of(const std::string& path, const std::string& text,
                                        std::shared_ptr<const Names> rules) const;
  Sight sight_of(const std::string& path, Document document, std::int64_t version) const;
  void changed(const std::string& stem);
  void work(const std::stop_token& stop);
  void look(const std::string& stem, const std::stop_token& stop);
  void publish(const std::string& stem, std::shared_ptr<const Knowledge> knowledge);

  const LoadOptions limits_;
  const Told told_;
  mutable std::mutex mutex_;
  std::condition_variable_any wakes_;
  std::map<std::string, Open> open_;   // by URI
  std::map<std::string, Game> games_;  // by path without its ending
  std::set<std::string> dirty_;        // stems
  std::deque<std::function<void()>> jobs_;
  std::string busy_;  // the stem that is looked at
  std::stop_source giving_up_;
  // The names of a text as they were asked for last, by path.
  mutable std::map<std::string, std::pair<std::string, std::shared_ptr<const Names>>> names_;
  std::jthread worker_;  // last: what it uses outlives it
};

}  // namespace orchard::language_server
