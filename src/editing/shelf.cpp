#include "editing/shelf.hpp"

#include <algorithm>

#include "game/core.hpp"

namespace orchard::editing {

namespace {

// Whether a text gives a size: (#let NAME …), #let NAME …
bool has_size(const std::string& text, const std::string& name) {
  constexpr std::string_view let = "#let";
  for (std::size_t at = text.find(let); at != std::string::npos; at = text.find(let, at + 1)) {
    const std::size_t begin = text.find_first_not_of(" \t\n", at + let.size());
    if (begin == std::string::npos) return false;
    const std::size_t end = text.find_first_of(" \t\n()=", begin);
    if (text.substr(begin, end - begin) == name) return true;
  }
  return false;
}

}  // namespace

const Picture& Reading::picture() const {
  std::call_once(picture_once_, [this] {
    if (!picture_) picture_.emplace(*game);
  });
  return *picture_;
}

CaseOptions Reading::case_options() const {
  CaseOptions options;
  options.reader = [this](const std::string& drawing, const std::vector<Term>& fluents) {
    return picture().read_drawn(drawing, fluents);
  };
  return options;
}

const std::vector<ArgumentDomain>& Reading::domains() const {
  std::call_once(domains_once_, [this] {
    if (game) domains_ = argument_domains(*game);
  });
  return domains_;
}

Shelf::Shelf(std::string path, LoadOptions limits)
    : path_(std::move(path)), limits_(std::move(limits)) {}

std::shared_ptr<const Reading> Shelf::read_anew(const Sheet& sheet,
                                                const std::stop_token& stop) const {
  auto reading = std::make_shared<Reading>();
  LoadOptions limits = limits_;
  if (stop.stop_possible()) limits.stop = stop;
  // A page goes on saying sizes that the text does not have any more.
  for (const auto& [name, value] : sheet.sizes) {
    if (has_size(sheet.rules, name)) limits.sizes[name] = value;
  }
  auto game = Game::from_text(sheet.rules, path_, limits);
  if (!game) {
    reading->findings = game.diagnostics();
    return reading;
  }
  reading->findings = game->findings();
  reading->sizes = GameAccess::core(*game)->program().description().tree().sizes();
  if (!sheet.drawing.empty()) {
    auto picture = Picture::from_text(*game, sheet.drawing, "drawing rules");
    if (picture) {
      reading->drawing_findings = picture->findings();
      reading->picture_ = std::move(*picture);
    } else {
      reading->drawing_findings = picture.diagnostics();
    }
  }
  reading->game = std::move(*game);
  return reading;
}

std::shared_ptr<const Reading> Shelf::read(const Sheet& sheet, const std::stop_token& stop) {
  std::promise<std::shared_ptr<const Reading>> promise;
  {
    std::unique_lock lock(mutex_);
    const auto known = std::ranges::find(read_, sheet, &std::pair<Sheet, Soon>::first);
    if (known != read_.end()) {
      read_.splice(read_.begin(), read_, known);
      const Soon soon = read_.front().second;
      lock.unlock();
      return soon.get();
    }
    read_.emplace_front(sheet, promise.get_future().share());
    if (read_.size() > most) read_.pop_back();
  }
  auto reading = read_anew(sheet, stop);
  if (stop.stop_requested() && !reading->game) {
    const std::lock_guard lock(mutex_);
    std::erase_if(read_, [&](const auto& one) { return one.first == sheet; });
  }
  promise.set_value(reading);
  return reading;
}

}  // namespace orchard::editing
