// Descriptions that were read lately, as the desk needs them: the game, its picture, and what is
// wrong with the text.
//
// A designer types, steps and asks many times of the same text; it is read once, and who asks
// meanwhile waits for that. Any thread may call; what it gives is immutable and shared.
#pragma once

#include <future>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>

#include "base/json.hpp"
#include "orchard/game.hpp"
#include "orchard/picture.hpp"

namespace orchard::desk {

// What a description is made of: its text, that of its drawing rules (empty: none), and sizes in
// place of its own.
struct Sheet {
  std::string rules;
  std::string drawing;
  std::map<std::string, std::int64_t> sizes;
  friend bool operator==(const Sheet&, const Sheet&) = default;
};

// A sheet that was read.
struct Reading {
  std::optional<Game> game;        // none if it does not read
  std::optional<Picture> picture;  // by the drawing rules, or inferred if those do not read
  Diagnostics findings;            // of the rules: errors, or what looks like a slip
  Diagnostics drawing_findings;
};

class Shelf {
 public:
  // `path`: of the description, for what it includes.
  Shelf(std::string path, LoadOptions limits);

  std::shared_ptr<const Reading> read(const Sheet& sheet);

 private:
  std::shared_ptr<const Reading> read_anew(const Sheet& sheet) const;

  static constexpr std::size_t most = 8;
  std::string path_;
  LoadOptions limits_;
  std::mutex mutex_;
  using Soon = std::shared_future<std::shared_ptr<const Reading>>;
  std::list<std::pair<Sheet, Soon>> read_;  // the latest first
};

}  // namespace orchard::desk
