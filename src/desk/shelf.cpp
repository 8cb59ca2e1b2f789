#include "desk/shelf.hpp"

#include <algorithm>

namespace orchard::desk {

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

Shelf::Shelf(std::string path, LoadOptions limits)
    : path_(std::move(path)), limits_(std::move(limits)) {}

std::shared_ptr<const Reading> Shelf::read_anew(const Sheet& sheet) const {
  auto reading = std::make_shared<Reading>();
  LoadOptions limits = limits_;
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
  if (!sheet.drawing.empty()) {
    auto picture = Picture::from_text(*game, sheet.drawing, "drawing rules");
    if (picture) {
      reading->drawing_findings = picture->findings();
      reading->picture = std::move(*picture);
    } else {
      reading->drawing_findings = picture.diagnostics();
    }
  }
  if (!reading->picture) reading->picture.emplace(*game);
  reading->game = std::move(*game);
  return reading;
}

std::shared_ptr<const Reading> Shelf::read(const Sheet& sheet) {
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
  auto reading = read_anew(sheet);
  promise.set_value(reading);
  return reading;
}

}  // namespace orchard::desk
