package dachshund.engine.answer;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Values;
import dachshund.core.when.When;
import dachshund.engine.thread.Threads;
import java.util.Optional;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;

/**
 * Tells the plant how its request ended: code and text, then the number as an echo. A plant that cannot be reached is told when it
 * can be, unless it asks for something else by then.
 */
public final class Answering {

    private static final long AGAIN_NANOS = 1_000_000_000L;

    private final Into into;
    private final Object number;
    private final PlantSide plant;
    private final BooleanSupplier ends;

    /**
     * Where it is told.
     *
     * @param by      who tells it
     * @param request that is answered; empty where the plant did not ask by a number
     * @param code    tag of the code
     * @param text    tag of the text
     */
    public record Into(String by, Optional<When.OnRequest> request, Optional<TagRef> code, Optional<TagRef> text) {

        private Optional<TagRef> echo() {
            return request.flatMap(When.OnRequest::answered);
        }
    }

    /**
     * @param number of the request; null where none is answered
     * @param ends   whether a plant that cannot be reached now is not waited for
     */
    public Answering(Into into, Object number, PlantSide plant, BooleanSupplier ends) {
        this.into = into;
        this.number = number;
        this.plant = plant;
        this.ends = ends;
    }

    /**
     * @param waits told why it cannot be given yet, and an empty text once it is
     * @return what became of it; empty where nobody is told anything
     */
    public String give(long code, String text, Consumer<String> waits) {
        Optional<TagRef> echo = number == null ? Optional.empty() : into.echo();
        if (echo.isEmpty() && into.code().isEmpty() && into.text().isEmpty()) {
            return "";
        }
        String why = "";
        while (true) {
            if (superseded()) {
                waits.accept("");
                return ("not given, since the plant asks for something else by now. " + why).strip();
            }
            try {
                into.code().ifPresent(tag -> plant.write(tag, code, 0, into.by()));
                into.text().ifPresent(tag -> plant.write(tag, text, 0, into.by()));
                echo.ifPresent(tag -> plant.write(tag, number, 0, into.by()));
                waits.accept("");
                return "given";
            } catch (RuntimeException no) {
                why = no instanceof IllegalArgumentException ? no.getMessage() : Threads.words(no);
                waits.accept(why);
                if (ends.getAsBoolean() || echo.isEmpty()) {
                    return "not given: " + why;
                }
                LockSupport.parkNanos(AGAIN_NANOS);
            }
        }
    }

    /** Whether the plant asks for something else by now. */
    public boolean superseded() {
        if (number == null) {
            return false;
        }
        TagValue now = into.request().map(each -> plant.now(each.number())).orElse(TagValue.NONE);
        return !now.quality().isBad()
                && now.value().isPresent()
                && !Values.words(now.value().get()).equals(Values.words(number));
    }
}
