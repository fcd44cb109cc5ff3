package dachshund.engine.transaction;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.TransactionDefinition;
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
final class Answering {

    private static final long AGAIN_NANOS = 1_000_000_000L;

    private final TransactionDefinition design;
    private final Object number;
    private final PlantSide plant;
    private final BooleanSupplier closing;

    /** @param number of the request; null where none is answered */
    Answering(TransactionDefinition design, Object number, PlantSide plant, BooleanSupplier closing) {
        this.design = design;
        this.number = number;
        this.plant = plant;
        this.closing = closing;
    }

    /**
     * @param waits told why it cannot be given yet, and an empty text once it is
     * @return what became of it; empty where nobody is told anything
     */
    String give(long code, String text, Consumer<String> waits) {
        Optional<TagRef> echo = design.request().filter(each -> number != null).flatMap(When.OnRequest::answered);
        if (echo.isEmpty() && design.answer().tags().findAny().isEmpty()) {
            return "";
        }
        String why = "";
        while (true) {
            if (superseded()) {
                waits.accept("");
                return ("not given, since the plant asks for something else by now. " + why).strip();
            }
            try {
                design.answer().code().ifPresent(tag -> plant.write(tag, code, 0, design.name()));
                design.answer().text().ifPresent(tag -> plant.write(tag, text, 0, design.name()));
                echo.ifPresent(tag -> plant.write(tag, number, 0, design.name()));
                waits.accept("");
                return "given";
            } catch (RuntimeException no) {
                why = no instanceof IllegalArgumentException ? no.getMessage() : Threads.words(no);
                waits.accept(why);
                if (closing.getAsBoolean() || echo.isEmpty()) {
                    return "not given: " + why;
                }
                LockSupport.parkNanos(AGAIN_NANOS);
            }
        }
    }

    private boolean superseded() {
        if (number == null) {
            return false;
        }
        TagValue now = design.request().map(each -> plant.now(each.number())).orElse(TagValue.NONE);
        return !now.quality().isBad()
                && now.value().isPresent()
                && !Values.words(now.value().get()).equals(Values.words(number));
    }
}
