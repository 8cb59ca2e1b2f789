#include "cli/line_pictures.hpp"

#include <fmt/core.h>

#include <filesystem>
#include <utility>

#include "base/file.hpp"
#include "orchard/png.hpp"

namespace orchard::cli {
namespace {

Diagnostics only(Diagnostic fault) {
  Diagnostics result;
  result.add(std::move(fault));
  return result;
}

constexpr double longer_at_the_end = 3;  // the last position of an animation

// DIR/000.png, DIR/001.png …, all of one size, so that they can be joined to a film.
Diagnostics write_frames(const std::string& folder, const Picture& picture,
                         const std::vector<PictureFrame>& frames, const SvgStyle& style) {
  const std::vector<std::string> pictures = picture.svg_each(frames, style);
  for (std::size_t ply = 0; ply < pictures.size(); ++ply) {
    const auto png = to_png(pictures[ply], 1.0);
    if (!png) return png.diagnostics();
    const auto file = std::filesystem::path(folder) / fmt::format("{:03}.png", ply);
    const Diagnostics faults = write_whole_file(file.string(), *png);
    if (!faults.empty()) return faults;
  }
  return {};
}

}  // namespace

bool wants_pictures(const Call& call) {
  return call.text("svg") || call.text("png") || call.text("frames");
}

bool wants_every_position(const Call& call) {
  return call.flag("strip") || call.flag("animate") || call.text("frames");
}

Diagnostics check_pictures(const Call& call) {
  const bool written = call.text("svg") || call.text("png");
  if (call.flag("animate") && !call.text("svg")) {
    return only(plain_error("wrong-call", "--animate needs --svg",
                            call.text("png") ? "add --svg FILE, or take --frames DIR for PNG files"
                                             : "add --svg FILE"));
  }
  if (call.flag("strip") && !written) {
    return only(plain_error("wrong-call", "--strip needs --svg or --png", "add --png FILE"));
  }
  if (const auto folder = call.text("frames")) {
    std::error_code error;
    std::filesystem::create_directories(*folder, error);
    if (error) {
      return only(plain_error("cannot-write", fmt::format("{}: {}", *folder, error.message()),
                              "name a folder that can be made"));
    }
  }
  return {};
}

Diagnostics write_pictures(const Call& call, const Picture& picture,
                           const std::vector<PictureFrame>& frames) {
  if (frames.empty()) {
    return only(plain_error("cannot-draw", "there is no picture of what the role knows",
                            "say in drawing rules what is shown: (visible ROLE FLUENT)"));
  }
  SvgStyle style;
  const std::string light = *call.text("light");
  style.light = light == "dark"    ? SvgStyle::Light::dark
                : light == "light" ? SvgStyle::Light::light
                                   : SvgStyle::Light::both;
  style.turned = call.flag("turn");
  style.seconds = *call.seconds("pace");
  style.last_seconds = style.seconds * longer_at_the_end;
  // --frames alone needs every position; a picture without --strip and --animate the last one.
  const bool all = call.flag("strip") || call.flag("animate");
  const std::vector<PictureFrame> shown(all ? frames.begin() : frames.end() - 1, frames.end());
  if (const auto file = call.text("svg")) {
    const Diagnostics faults =
        write_whole_file(*file, call.flag("animate") ? picture.animated_svg(shown, style)
                                                     : picture.svg(shown, style));
    if (!faults.empty()) return faults;
  }
  if (style.light == SvgStyle::Light::both) style.light = SvgStyle::Light::light;
  if (const auto file = call.text("png")) {
    const auto png = to_png(picture.svg(shown, style), 1.0);
    if (!png) return png.diagnostics();
    const Diagnostics faults = write_whole_file(*file, *png);
    if (!faults.empty()) return faults;
  }
  if (const auto folder = call.text("frames")) return write_frames(*folder, picture, frames, style);
  return {};
}

}  // namespace orchard::cli
