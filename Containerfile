# Builds the program and runs it as an ordinary user. Fonts, styles and scripts
# are in the program; it needs a PostgreSQL, and keeps files in a volume.
#
#   podman build -t candlepath .
#   podman run --rm -e DATABASE_URL=… candlepath migrate
#   podman run -p 8080:8080 -e DATABASE_URL=… -v candlepath:/var/lib/candlepath candlepath
FROM docker.io/library/golang:1.26-bookworm AS build
WORKDIR /src
COPY go.mod go.sum ./
RUN go mod download
COPY . .
RUN CGO_ENABLED=0 go build -trimpath -o /candlepath ./cmd/candlepath

FROM docker.io/library/debian:bookworm-slim
RUN apt-get update && apt-get install -y --no-install-recommends ca-certificates && rm -rf /var/lib/apt/lists/* \
 && useradd --system --uid 10001 --no-create-home candlepath \
 && install -d -o 10001 -m 0750 /var/lib/candlepath
COPY --from=build /candlepath /usr/local/bin/candlepath
USER 10001
WORKDIR /var/lib/candlepath
ENV ADDR=0.0.0.0:8080 METRICS_ADDR=0.0.0.0:9478 FILES=/var/lib/candlepath/files LOG_FORMAT=json
VOLUME /var/lib/candlepath
EXPOSE 8080 9478
STOPSIGNAL SIGTERM
ENTRYPOINT ["/usr/local/bin/candlepath"]
CMD ["serve"]
