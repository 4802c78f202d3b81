# Jaskel as a container: the server with its worker, or a worker alone (jaskel worker).
FROM node:22-bookworm-slim AS page
WORKDIR /opt/jaskel/frontend
COPY frontend/package.json frontend/package-lock.json ./
RUN npm ci --no-audit --no-fund --loglevel=error
COPY frontend ./
RUN npm run --silent build

FROM python:3.11-slim-bookworm
ENV PIP_DISABLE_PIP_VERSION_CHECK=1 PYTHONUNBUFFERED=1 HF_HUB_OFFLINE=1
WORKDIR /opt/jaskel
COPY requirements.lock pyproject.toml README.md ./
RUN python -m venv .venv && .venv/bin/python -m pip install --quiet --no-cache-dir --require-hashes --no-deps -r requirements.lock
COPY jaskel jaskel
COPY --from=page /opt/jaskel/frontend/dist frontend/dist
RUN .venv/bin/python -m pip install --quiet --no-cache-dir --no-deps --editable . \
  && .venv/bin/python -c "from jaskel.speech.weights import multilingual_weights; multilingual_weights()" \
  && useradd --system --create-home jaskel && mkdir /data && chown jaskel /data
USER jaskel
ENV PATH=/opt/jaskel/.venv/bin:$PATH JASKEL_DATA=/data JASKEL_HOST=0.0.0.0 JASKEL_LOG=json
VOLUME /data
EXPOSE 8750
CMD ["jaskel", "serve", "--team"]
