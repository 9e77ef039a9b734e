import type { Page } from 'playwright-core';

/** A page that uses a library, and actions of its user; compared are the arguments of `told`, and the page itself. */
export interface LibraryPage {
  readonly body: string;
  /** A script that the page runs after the library. */
  readonly script: string;
  /** The actions of a user on the page. */
  readonly act: (page: Page) => Promise<void>;
}

/** The responses of the server to these pages. */
export const answers: Readonly<Record<string, readonly [type: string, body: string]>> = {
  '/tonight': ['text/html', '<p class="sky">Clear until <b>two</b></p>'],
  '/form': ['text/html', '<li>Booked for 3</li>'],
  '/broken': ['text/html', '<p>never shown'],
  '/domes.json': ['application/json', '{"domes":[{"name":"North","slits":2},{"name":"South","slits":1}]}'],
};

const box = (width: number, height: number): string => `style="width:${String(width)}px;height:${String(height)}px"`;

/** Pages for the libraries of the corpus that need one. */
export const libraryPages: Readonly<Record<string, LibraryPage>> = {
  leaflet: {
    body: `<div id="map" ${box(480, 320)}></div>`,
    script: `
      const still = { animate: false, fade: false };
      const map = L.map('map', { zoomAnimation: false, fadeAnimation: false, markerZoomAnimation: false, inertia: false }).setView([41.2, 13.7], 9);
      map.on('zoomend moveend popupopen layeradd click', (event) => told(event.type, map.getZoom(), map.getCenter().toString()));
      L.tileLayer('/tile/{z}/{x}/{y}.png', { attribution: 'Fernlight' }).addTo(map);
      const marker = L.marker([41.2, 13.7], { draggable: true, title: 'dome' }).addTo(map).bindPopup('<b>North</b> dome', { autoPan: false }).openPopup();
      const ring = L.circle([41.25, 13.75], { radius: 4000, color: 'teal' }).bindTooltip('ring', { permanent: true });
      const walk = L.polyline([[41.1, 13.5], [41.2, 13.7], [41.3, 13.6], [41.31, 13.61]], { smoothFactor: 2 });
      const field = L.polygon([[[41, 13], [41, 14], [42, 14]], [[41.2, 13.6], [41.2, 13.8], [41.4, 13.8]]]);
      const all = L.featureGroup([ring, walk, field]).addTo(map);
      L.control.layers({}, { shapes: all }, { collapsed: false }).addTo(map);
      L.control.scale().addTo(map);
      L.geoJSON({ type: 'FeatureCollection', features: [
        { type: 'Feature', properties: { n: 1 }, geometry: { type: 'Point', coordinates: [13.6, 41.3] } },
        { type: 'Feature', properties: { n: 2 }, geometry: { type: 'LineString', coordinates: [[13.6, 41.3], [13.9, 41.5]] } },
      ] }, { pointToLayer: (feature, at) => L.circleMarker(at, { radius: feature.properties.n * 3 }), filter: ({ properties }) => properties.n > 0 }).addTo(map);
      map.fitBounds(all.getBounds(), still);
      map.panBy([30, -20], still);
      map.zoomOut(1, still);
      told(all.toGeoJSON(), map.getBounds().toBBoxString(), map.latLngToContainerPoint([41.2, 13.7]).toString());
      told(L.latLng(50.5, 30.5).distanceTo([51, 31]), L.CRS.EPSG3395.project(L.latLng(40, 20)).toString(), L.CRS.Simple.latLngToPoint(L.latLng(1, 2), 3));
      told(L.LineUtil.simplify([[0, 0], [1, 0.1], [2, -0.1], [3, 5], [4, 6], [5, 7], [6, 8.1]].map(([x, y]) => L.point(x, y)), 1).map(String));
      told(L.PolyUtil.clipPolygon([[0, 0], [9, 0], [9, 9]].map((one) => L.point(one)), L.bounds([2, 1], [7, 6])).map(String));
      told(L.Util.template('{a} of {b}', { a: 1, b: () => 'two' }), L.Util.formatNum(3.14159, 2), L.point(3, 7).rotate?.call, L.bounds([0, 0], [5, 5]).overlaps(L.bounds([4, 4], [9, 9])));
      for (const wrong of [() => L.map('map'), () => L.latLng(NaN, 1), () => map.addLayer({})]) try { wrong(); } catch (error) { told(error.message); }`,
    async act(page) {
      await page.mouse.click(240, 200);
      await page.click('.leaflet-control-zoom-in');
      await page.mouse.move(200, 150);
      await page.mouse.wheel(0, -240);
      await page.waitForTimeout(300);
      await page.click('.leaflet-control-layers-selector');
      await page.mouse.move(300, 250);
      await page.mouse.down();
      await page.mouse.move(340, 210, { steps: 5 });
      await page.mouse.up();
      await page.keyboard.press('ArrowLeft');
      await page.waitForTimeout(400);
    },
  },
  'htmx.org': {
    body: `<button id="sky" hx-get="/tonight" hx-target="#out" hx-swap="innerHTML">Sky</button><div id="out"></div>
      <form hx-post="/form" hx-target="#list" hx-swap="beforeend"><input name="seats" value="3"><button id="book">Book</button></form><ul id="list"></ul>
      <div hx-get="/tonight" hx-trigger="load" hx-swap="outerHTML"></div>
      <button id="gone" hx-get="/broken" hx-target="#out" hx-vals='{"a":1}' hx-confirm="Sure?">Broken</button>
      <input id="seek" hx-get="/tonight" hx-trigger="keyup changed delay:500ms" hx-target="#found" name="q"><div id="found"></div>`,
    script: `
      for (const name of ['htmx:afterSwap', 'htmx:after:swap', 'htmx:config:request', 'htmx:configRequest', 'htmx:error', 'htmx:responseError'])
        document.addEventListener(name, (event) => told(name, event.target.id || event.target.tagName));
      window.confirm = () => true;
      told(Object.keys(htmx).sort(), htmx.config);`,
    async act(page) {
      await page.click('#sky');
      await page.waitForSelector('#out .sky');
      await page.click('#book');
      await page.click('#book');
      await page.waitForSelector('#list li + li');
      await page.click('#gone');
      await page.type('#seek', 'moon', { delay: 10 });
      await page.waitForSelector('#found .sky');
      await page.waitForTimeout(300);
    },
  },
  axios: {
    body: '<pre id="out"></pre>',
    script: `
      const show = (name, work) => work.then((value) => [name, value], (error) => [name, error.name, error.code, error.message, error.response && error.response.status])
        .then((line) => { told(...line); out.append(JSON.stringify(line) + '\\n'); });
      const client = axios.create({ baseURL: '/', timeout: 5000, headers: { 'X-Dome': 'north' }, params: { night: 1 } });
      client.interceptors.request.use((config) => { config.headers['X-More'] = 'yes'; return config; });
      client.interceptors.response.use(({ data, status, headers }) => ({ data, status, type: String(headers['content-type']) }));
      window.done = (async () => {
        await show('get', client.get('domes.json', { params: { list: [1, 2], when: new Date(0), nested: { a: 'b c' } } }));
        await show('text', axios.get('/tonight', { responseType: 'text', transformResponse: [(text) => text.toUpperCase()] }).then(({ data }) => data));
        await show('post', client.post('form', { seats: 3, names: ['Ada', 'Bo'] }));
        await show('form', axios.postForm('/form', { seats: 3, 'who[]': ['x', 'y'] }).then(({ data, config }) => [data, config.method]));
        await show('missing', axios.get('/nowhere'));
        await show('accepted', axios.get('/nowhere', { validateStatus: () => true }).then(({ status }) => status));
        const stop = new AbortController();
        const stopped = axios.get('/slow', { signal: stop.signal });
        stop.abort();
        await show('stopped', stopped);
        await show('late', axios.get('/slow', { timeout: 30 }));
        await show('wrong', axios.get('/tonight', { adapter: 'none-such' }));
        await show('all', axios.all([axios.head('/tonight'), axios.options('/tonight')]).then(axios.spread((a, b) => [a.status, b.status])));
        told(axios.getUri({ url: '/a', params: { b: [1, { c: 2 }], d: null, e: 'ä &' } }), axios.toFormData({ a: [1, { b: 2 }] }).get('a[1][b]'), axios.formToJSON(new FormData()));
        told(axios.isCancel({}), axios.isAxiosError(new axios.AxiosError('m', 'c')), new axios.AxiosError('m', 'c').toJSON().message, Object.keys(axios).sort(), axios.HttpStatusCode);
        const headers = new axios.AxiosHeaders('A: 1\\nb: 2');
        headers.set('C', 'x').normalize(true);
        told(headers.toJSON(), headers.has('a'), headers.getAccept && String(headers.getAccept()));
      })();`,
    async act(page) {
      await page.waitForFunction('window.done.then(() => true)');
    },
  },
  sortablejs: {
    body: `<ul id="a">${['Moon', 'Mars', 'Vega', 'Lyra', 'Crab'].map((name) => `<li data-id="${name}" ${box(200, 30)}>${name}</li>`).join('')}</ul>
      <ul id="b" ${box(220, 100)}><li data-id="Halo" ${box(200, 30)}>Halo</li><li class="fixed" ${box(200, 30)}>fixed</li></ul>`,
    script: `
      const report = (event) => told(event.type, event.item && event.item.dataset.id, event.oldIndex, event.newIndex, event.from && event.from.id, event.to && event.to.id);
      const events = Object.fromEntries(['onStart', 'onEnd', 'onAdd', 'onRemove', 'onUpdate', 'onSort', 'onChoose', 'onUnchoose', 'onFilter'].map((name) => [name, report]));
      const shared = { group: 'sky', forceFallback: true, fallbackTolerance: 0, animation: 0, ...events };
      const one = Sortable.create(document.getElementById('a'), shared);
      const two = new Sortable(document.getElementById('b'), { ...shared, filter: '.fixed' });
      one.sort(['Vega', 'Moon', 'Crab', 'Lyra', 'Mars']);
      told(one.toArray(), two.toArray(), one.option('group'), one.closest(document.querySelector('li')).id, Object.keys(Sortable).sort(), Object.keys(Sortable.utils).sort());
      window.tell = () => told(one.toArray(), two.toArray());`,
    async act(page) {
      const drag = async (from: string, to: string, below: number): Promise<void> => {
        const [start, end] = [await page.locator(from).boundingBox(), await page.locator(to).boundingBox()];
        await page.mouse.move(start!.x + 20, start!.y + 12);
        await page.mouse.down();
        await page.waitForTimeout(60);
        await page.mouse.move(start!.x + 25, start!.y + 16, { steps: 3 });
        await page.mouse.move(end!.x + 30, end!.y + below, { steps: 12 });
        await page.waitForTimeout(120);
        await page.mouse.up();
        await page.waitForTimeout(120);
        await page.evaluate('tell()');
      };
      await drag('[data-id=Vega]', '[data-id=Mars]', 25);
      await drag('[data-id=Crab]', '[data-id=Halo]', 25);
      await drag('.fixed', '[data-id=Moon]', 10);
    },
  },
  swiper: {
    body: `<style>.swiper{width:300px;overflow:hidden}.swiper-wrapper{display:flex}.swiper-slide{width:300px;height:120px;flex-shrink:0}</style>
      <div class="swiper" id="one"><div class="swiper-wrapper">${[1, 2, 3, 4].map((n) => `<div class="swiper-slide">Night ${String(n)}</div>`).join('')}</div>
      <div class="swiper-pagination"></div><div class="swiper-button-prev"></div><div class="swiper-button-next"></div><div class="swiper-scrollbar"></div></div>
      <div class="swiper" id="two"><div class="swiper-wrapper">${[1, 2, 3, 4, 5, 6].map((n) => `<div class="swiper-slide">Dome ${String(n)}</div>`).join('')}</div></div>`,
    script: `
      const one = new Swiper('#one', { speed: 0, pagination: { el: '.swiper-pagination', clickable: true, type: 'fraction' }, navigation: { nextEl: '.swiper-button-next', prevEl: '.swiper-button-prev' }, scrollbar: { el: '.swiper-scrollbar' }, keyboard: { enabled: true }, a11y: { enabled: true, id: 'fixed' } });
      const two = new Swiper('#two', { speed: 0, slidesPerView: 2, spaceBetween: 10, loop: true, effect: 'slide', freeMode: false, breakpoints: { 100: { slidesPerView: 3 } } });
      for (const swiper of [one, two]) swiper.on('slideChange reachEnd reachBeginning init resize', () => told(swiper.el.id, swiper.activeIndex, swiper.realIndex, swiper.progress, swiper.isEnd));
      one.slideNext(); one.slideTo(3); one.slidePrev(0);
      two.slideToLoop(4, 0); two.slideNext(0); two.slideNext(0);
      one.appendSlide && one.appendSlide('<div class="swiper-slide">More</div>');
      one.removeSlide && one.removeSlide(0);
      told(one.slides.length, two.params.slidesPerView, one.translate, two.snapGrid, Object.keys(Swiper).sort());
      window.tell = () => told(one.activeIndex, two.realIndex, one.translate, two.translate);`,
    async act(page) {
      await page.click('#one .swiper-button-next');
      await page.mouse.move(200, 60);
      await page.mouse.down();
      await page.mouse.move(60, 60, { steps: 8 });
      await page.mouse.up();
      await page.waitForTimeout(100);
      await page.keyboard.press('ArrowRight');
      await page.waitForTimeout(100);
      await page.evaluate('tell()');
    },
  },
};
