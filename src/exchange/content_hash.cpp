// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/content_hash.h"

#include <openssl/evp.h>

#include <array>

#include "core/model/ids.h"

namespace culvert {
namespace {

/// 128-bit FNV-1a: what assets were named by at first. They are still found; new ones are never named so.
std::string first_hash(std::string_view bytes) {
    using Wide = unsigned __int128;
    Wide h = (static_cast<Wide>(0x6c62272e07bb0142ULL) << 64) | 0x62b821756295c58dULL;
    const Wide prime = (static_cast<Wide>(1) << 88) | 0x13bULL;
    for (const char c : bytes) {
        h ^= static_cast<unsigned char>(c);
        h *= prime;
    }
    return id_text(static_cast<std::uint64_t>(h >> 64)) + id_text(static_cast<std::uint64_t>(h));
}

}  // namespace

std::string content_hash(std::string_view bytes) {
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned int size = 0;
    EVP_Digest(bytes.data(), bytes.size(), digest.data(), &size, EVP_sha256(), nullptr);
    constexpr char hex[] = "0123456789abcdef";
    std::string text;
    for (unsigned int i = 0; i < size; ++i) {
        text += hex[digest[i] >> 4];
        text += hex[digest[i] & 15];
    }
    return text;
}

bool is_hash(std::string_view text) {
    return (text.size() == 64 || text.size() == 32) &&
           text.find_first_not_of("0123456789abcdef") == std::string_view::npos;
}

bool is_content_of(std::string_view bytes, std::string_view hash) {
    return is_hash(hash) && (hash.size() == 64 ? content_hash(bytes) : first_hash(bytes)) == hash;
}

}  // namespace culvert
