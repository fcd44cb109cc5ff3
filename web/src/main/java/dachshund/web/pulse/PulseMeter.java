package dachshund.web.pulse;

import dachshund.core.outcome.Outcome;
import dachshund.core.source.LinkState;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.io.IOException;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;
import org.thymeleaf.context.Context;
import org.thymeleaf.spring6.SpringTemplateEngine;

/** Takes the pulse once a second and sends it to every open page by server-sent events. */
@Component
public class PulseMeter {

    private static final int WINDOW_SECONDS = 60;

    private final Engine engine;
    private final PulseLine line;
    private final Deque<Long> landed = new ArrayDeque<>();
    private final List<SseEmitter> listeners = new CopyOnWriteArrayList<>();
    private final Worker worker;
    private volatile Pulse latest;

    /** Writes a pulse as the part of the page that shows it. */
    @Component
    static class PulseLine {

        private final SpringTemplateEngine templates;
        private final org.springframework.context.ApplicationContext beans;

        PulseLine(SpringTemplateEngine templates, org.springframework.context.ApplicationContext beans) {
            this.templates = templates;
            this.beans = beans;
        }

        String html(Pulse pulse) {
            Context context = new Context();
            context.setVariable("pulse", pulse);
            context.setVariable(
                    org.thymeleaf.spring6.expression.ThymeleafEvaluationContext
                            .THYMELEAF_EVALUATION_CONTEXT_CONTEXT_VARIABLE_NAME,
                    new org.thymeleaf.spring6.expression.ThymeleafEvaluationContext(beans, null));
            return templates
                    .process("pulse/line", java.util.Set.of("figures"), context)
                    .replaceAll("\\s*\\n\\s*", " ")
                    .strip();
        }
    }

    PulseMeter(Engine engine, PulseLine line) {
        this.engine = engine;
        this.line = line;
        this.latest = take();
        this.worker = Threads.start("pulse", () -> {
            latest = take();
            send();
            return 1_000_000_000L;
        });
    }

    public Pulse latest() {
        return latest;
    }

    private Pulse take() {
        landed.addLast(engine.book().total(Outcome.LANDED));
        while (landed.size() > WINDOW_SECONDS + 1) {
            landed.removeFirst();
        }
        long live =
                engine.sources().all().stream().mapToLong(run -> run.liveTags()).sum();
        long all = engine.sources().all().stream()
                .mapToLong(run -> run.definition().tags().size())
                .sum();
        long down = engine.sources().all().stream()
                .filter(run -> run.status().state() != LinkState.CONNECTED)
                .count();
        long aside = engine.local().aside().counts().values().stream()
                .mapToLong(Long::longValue)
                .sum();
        return new Pulse(
                live,
                all,
                landed.getLast() - landed.getFirst(),
                engine.held(),
                aside,
                down,
                engine.sources().all().size(),
                diskLeft(),
                engine.clock().now());
    }

    private long diskLeft() {
        return engine.folder().toFile().getUsableSpace();
    }

    SseEmitter listen() {
        SseEmitter emitter = new SseEmitter(0L);
        emitter.onCompletion(() -> listeners.remove(emitter));
        emitter.onError(problem -> listeners.remove(emitter));
        listeners.add(emitter);
        return emitter;
    }

    private void send() {
        if (listeners.isEmpty()) {
            return;
        }
        String html = line.html(latest);
        listeners.removeIf(listener -> {
            try {
                listener.send(SseEmitter.event().name("pulse").data(html));
                return false;
            } catch (IOException | IllegalStateException gone) {
                return true;
            }
        });
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        worker.close();
        listeners.forEach(SseEmitter::complete);
    }
}
