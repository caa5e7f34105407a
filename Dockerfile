# The program alone, static, in an image without anything else:
#
#     docker build -t dulk .
#     docker run --rm -v "$PWD:/repository:ro" dulk
FROM rust:1.95-bookworm AS build
RUN apt-get update -qq && apt-get install -y -qq --no-install-recommends nodejs
WORKDIR /source
COPY . .
RUN target="$(uname -m)-unknown-linux-musl" \
    && rustup target add "$target" \
    && RUSTFLAGS="-C relocation-model=static -C symbol-mangling-version=v0" cargo build --locked --release --package dulk --target "$target" \
    && mkdir /image \
    && cp "target/$target/release/dulk" LICENSE-MIT LICENSE-APACHE /image/ \
    && node npm/licences.js "$target" /image

FROM scratch
COPY --from=build /image/ /
# Nobody: what it reads is the mounted repository, and it writes nothing.
USER 65534:65534
WORKDIR /repository
ENTRYPOINT ["/dulk"]
