package dachshund.engine.answer;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Values;
import dachshund.core.when.When;
import java.util.Optional;
import java.util.function.Function;

/**
 * A request of the plant.
 *
 * @param number   as it is echoed
 * @param identity the same whenever it is asked for again; a number used anew after its controller's epoch changed is another one
 */
public record Asked(Object number, String identity) {

    /**
     * The request that stands there; empty where there is none.
     *
     * @param lastGood the last good value of a tag: by that its When has decided, in between the number may be gone again
     */
    public static Optional<Asked> of(When.OnRequest request, Function<TagRef, TagValue> lastGood) {
        return lastGood.apply(request.number())
                .value()
                .filter(When.OnRequest::asks)
                .map(number -> {
                    String epoch = request.epoch()
                            .flatMap(tag -> lastGood.apply(tag).value())
                            .map(Values::words)
                            .orElse("");
                    return new Asked(number, epoch + "/" + Values.words(number));
                });
    }

    /** The request in words, to stand in a sentence. */
    public String words() {
        return "request " + Values.words(number);
    }
}
