package dachshund.core.transaction;

import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What the plant is told once it is known how a run ended, never before. The number of the request is written last, as an echo, so
 * that whoever sees it finds code and text beside it.
 *
 * @param code     tag that gets one of the codes
 * @param text     tag that gets a text: on success what {@code doneText} gives, else the reason
 * @param done     code of a run that is committed
 * @param but      code of a run that is committed, though something that comes after was refused
 * @param failed   code of a run that left nothing behind
 * @param doneText formula of the text on success; empty for none
 */
public record Answer(Optional<TagRef> code, Optional<TagRef> text, long done, long but, long failed, String doneText) {

    /** Nothing is told. */
    public static final Answer NONE = new Answer(Optional.empty(), Optional.empty(), 1, 2, 3, "");

    /** Texts for the plant are cut to so many letters. */
    public static final int LONGEST_TEXT = 80;

    /** The same to another machine. */
    public Answer swapped(When.Swap swap, OwnWords words) {
        return new Answer(
                code.flatMap(swap::kept), text.flatMap(swap::kept), done, but, failed, words.inFormula(doneText));
    }

    public Stream<TagRef> tags() {
        return Stream.of(code, text).flatMap(Optional::stream);
    }
}
