// Descriptions that were read lately, as an editor needs them: the game, its picture, and what is
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
#include <stop_token>
#include <string>

#include "base/json.hpp"
#include "orchard/cases.hpp"
#include "orchard/domains.hpp"
#include "orchard/game.hpp"
#include "orchard/picture.hpp"

namespace orchard::editing {

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
  std::optional<Game> game;  // none if it does not read
  Diagnostics findings;      // of the rules: errors, or what looks like a slip
  Diagnostics drawing_findings;
  std::map<std::string, std::int64_t> sizes;  // the numbers of #let, with those of the sheet

  // By the drawing rules, or inferred if there are none that read: at the first call, which may
  // play some games. Only of what reads.
  const Picture& picture() const;
  // For running cases of what reads: boards are drawn as its picture draws them. The reading must
  // outlive it.
  CaseOptions case_options() const;
  // What can stand at each argument; worked out at the first call. None if it does not read.
  const std::vector<ArgumentDomain>& domains() const;

 private:
  friend class Shelf;
  mutable std::once_flag picture_once_;
  mutable std::optional<Picture> picture_;
  mutable std::once_flag domains_once_;
  mutable std::vector<ArgumentDomain> domains_;
};

class Shelf {
 public:
  // `path`: of the description, for what it includes.
  Shelf(std::string path, LoadOptions limits);

  // Waits until it is read. With a stop token reading can be given up: what was read then holds the
  // diagnostic `interrupted`, and is not kept.
  std::shared_ptr<const Reading> read(const Sheet& sheet, const std::stop_token& stop = {});

 private:
  std::shared_ptr<const Reading> read_anew(const Sheet& sheet, const std::stop_token& stop) const;

  static constexpr std::size_t most = 8;
  std::string path_;
  LoadOptions limits_;
  std::mutex mutex_;
  using Soon = std::shared_future<std::shared_ptr<const Reading>>;
  std::list<std::pair<Sheet, Soon>> read_;  // the latest first
};

}  // namespace orchard::editing
