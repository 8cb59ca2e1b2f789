#include "explore/stores/key_bitmap.hpp"

#include <sys/mman.h>

#include <algorithm>

namespace orchard::explore {

std::unique_ptr<KeyBitmap> KeyBitmap::make(std::uint32_t key_bits) {
  if (key_bits > most_bits) return nullptr;
  const std::size_t pages = std::max<std::size_t>((std::uint64_t{1} << key_bits) / page_keys, 1);
  const std::size_t bytes = pages * page_words * sizeof(std::uint64_t);
  // Memory comes with the first key of a page.
  void* const memory = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE,
                              MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
  if (memory == MAP_FAILED) return nullptr;
  // In large pieces: a third of the time of a count goes into small ones.
  ::madvise(memory, bytes, MADV_HUGEPAGE);
  Words words(static_cast<std::uint64_t*>(memory), Unmap{bytes});
  return std::unique_ptr<KeyBitmap>(new KeyBitmap(std::move(words), pages));
}

void KeyBitmap::Unmap::operator()(std::uint64_t* words) const {
  ::munmap(words, bytes);
}

void KeyBitmap::insert_all(const KeyBitmap& other) {
  for (std::size_t page = 0; page < live_.size(); ++page) {
    if (other.live_[page] != touched) continue;
    live_[page] = touched;
    for (std::size_t w = page * page_words; w < (page + 1) * page_words; ++w) {
      words_[w] |= other.words_[w];
    }
  }
}

std::uint64_t KeyBitmap::bytes() const {
  std::uint64_t pages = 0;
  for (std::size_t first = 0; first < live_.size(); first += pages_at_once) {
    const auto here =
        std::span(live_).subspan(first, std::min(pages_at_once, live_.size() - first));
    std::uint8_t used = 0;  // many at once: an end at the first would cost more than it spares
    for (const std::uint8_t state : here) used |= state;
    if (used != 0) pages += here.size();
  }
  return pages * page_words * sizeof(std::uint64_t) + live_.size();
}

std::vector<std::uint64_t> KeyBitmap::pages() const {
  std::vector<std::uint64_t> result;
  for (std::size_t page = 0; page < live_.size(); ++page) {
    if (live_[page] == touched) result.push_back(page);
  }
  return result;
}

}  // namespace orchard::explore
