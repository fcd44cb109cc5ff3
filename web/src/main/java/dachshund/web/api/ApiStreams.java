package dachshund.web.api;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TaggedValue;
import dachshund.engine.Engine;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Future;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** Programs that listen to changes. Each has a queue of its own; when it is full, new changes are dropped and the program is told. */
@Component
class ApiStreams {

    static final int MOST = 50;
    private static final int QUEUE = 10_000;
    private static final long EVERY_MILLIS = 100;
    private static final int QUIET_ROUNDS = 150;

    private final Engine engine;
    private final ScheduledExecutorService senders = Threads.pool("api-stream", 4);
    private final Set<Listening> open = ConcurrentHashMap.newKeySet();

    /** Too many programs listen. */
    static final class TooMany extends RuntimeException {
        TooMany() {
            super("There are " + MOST + " streams open already.");
        }
    }

    private final class Listening implements TagTable.Watcher {
        private final Collection<TagRef> tags;
        private final SseEmitter emitter = new SseEmitter(0L);
        private final BlockingQueue<TaggedValue> queue = new ArrayBlockingQueue<>(QUEUE);
        private final AtomicLong dropped = new AtomicLong();
        private Future<?> sending;
        private int quiet;

        private Listening(Collection<TagRef> tags) {
            this.tags = tags;
        }

        @Override
        public void changed(List<TaggedValue> changes) {
            changes.forEach(change -> {
                if (!queue.offer(change)) {
                    dropped.incrementAndGet();
                }
            });
        }

        private void begin() {
            engine.tags().watch(tags, this);
            emitter.onCompletion(this::end);
            emitter.onError(problem -> end());
            changed(tags.stream()
                    .map(tag -> new TaggedValue(tag, engine.tags().entry(tag).value()))
                    .toList());
            sending = senders.scheduleWithFixedDelay(this::send, 0, EVERY_MILLIS, TimeUnit.MILLISECONDS);
        }

        private void send() {
            List<TaggedValue> changes = new ArrayList<>();
            queue.drainTo(changes);
            long lost = dropped.getAndSet(0);
            try {
                if (lost > 0) {
                    emitter.send(SseEmitter.event().name("dropped").data(lost));
                }
                if (!changes.isEmpty()) {
                    emitter.send(SseEmitter.event()
                            .name("values")
                            .data(changes.stream()
                                    .map(change -> ApiController.Value.of(change.tag(), change.value()))
                                    .toList()));
                    quiet = 0;
                } else if (++quiet >= QUIET_ROUNDS) {
                    emitter.send(SseEmitter.event().comment("nothing changed"));
                    quiet = 0;
                }
            } catch (IOException | IllegalStateException gone) {
                end();
            }
        }

        private void end() {
            engine.tags().unwatch(tags, this);
            open.remove(this);
            if (sending != null) {
                sending.cancel(false);
            }
        }
    }

    ApiStreams(Engine engine) {
        this.engine = engine;
    }

    SseEmitter open(List<TagRef> tags) {
        if (open.size() >= MOST) {
            throw new TooMany();
        }
        Listening listening = new Listening(tags);
        open.add(listening);
        listening.begin();
        return listening.emitter;
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        open.forEach(listening -> listening.emitter.complete());
        senders.shutdownNow();
    }
}
