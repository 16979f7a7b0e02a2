# Builds the program and runs it as an ordinary user. Fonts, styles and scripts
# are in the program; it needs a PostgreSQL and nothing else.
#
#   podman build -t candlepath .
#   podman run --rm -e DATABASE_URL=… candlepath migrate
#   podman run -p 8080:8080 -e DATABASE_URL=… candlepath
FROM docker.io/library/golang:1.26-bookworm AS build
WORKDIR /src
COPY go.mod go.sum ./
RUN go mod download
COPY . .
RUN CGO_ENABLED=0 go build -trimpath -o /candlepath ./cmd/candlepath

FROM docker.io/library/debian:bookworm-slim
RUN useradd --system --uid 10001 --no-create-home candlepath
COPY --from=build /candlepath /usr/local/bin/candlepath
USER 10001
ENV ADDR=0.0.0.0:8080 LOG_FORMAT=json
EXPOSE 8080
STOPSIGNAL SIGTERM
ENTRYPOINT ["/usr/local/bin/candlepath"]
CMD ["serve"]
