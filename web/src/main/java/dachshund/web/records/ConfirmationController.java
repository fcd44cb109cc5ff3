package dachshund.web.records;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.when.Confirmation;
import dachshund.office.tag.TagFinder;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.time.Duration;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Edits of what the plant is told about a recorder's rows. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/confirms")
class ConfirmationController {

    private final RecorderPage page;

    ConfirmationController(RecorderPage page) {
        this.page = page;
    }

    /** What is confirmed, nothing where that is empty, and with which codes. */
    @PostMapping
    String confirms(
            @PathVariable String id,
            @RequestParam String of,
            @RequestParam(defaultValue = "") String done,
            @RequestParam(defaultValue = "") String failed,
            @RequestParam(defaultValue = "") String settle,
            @RequestParam int seen,
            Principal by,
            Model model) {
        if (of.isEmpty()) {
            return page.change(id, seen, by.getName(), model, recorder -> recorder.withConfirms(Optional.empty()));
        }
        model.addAttribute("form", new Typed(done, failed, settle));
        Confirmation was = page.recorder(id).confirms().orElse(Confirmation.that(Confirmation.Of.valueOf(of)));
        Confirmation wanted;
        try {
            wanted = was.with(Confirmation.Of.valueOf(of))
                    .withCodes(done.isBlank() ? was.done() : code(done), failed.isBlank() ? was.failed() : code(failed))
                    .withSettle(settle.isBlank() ? Duration.ZERO : PeriodText.read(settle.strip()));
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "confirms", no.getMessage(), "");
        }
        if (wanted.done() == wanted.failed()) {
            return page.refuse(
                    id, model, "confirms", "With the same code for both, nobody could tell one from the other.", "");
        }
        return page.change(id, seen, by.getName(), model, recorder -> recorder.withConfirms(Optional.of(wanted)));
    }

    /** What was typed: it stays in its fields where it is refused. */
    record Typed(String done, String failed, String settle) {}

    private static long code(String text) {
        if (!text.strip().matches("-?\\d{1,9}")) {
            throw new IllegalArgumentException("\"" + text.strip() + "\" is no whole number.");
        }
        return Long.parseLong(text.strip());
    }

    /** The tag that gets the code; none where nothing is given. */
    @PostMapping("/code")
    String codeTag(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return tag(id, seen, by, model, was -> was.withCode(ref(text)));
    }

    /** The tag that gets the reason; none where nothing is given. */
    @PostMapping("/text")
    String textTag(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return tag(id, seen, by, model, was -> was.withText(ref(text)));
    }

    private static Optional<TagRef> ref(String text) {
        return text.isEmpty() ? Optional.empty() : Optional.of(TagFinder.ref(text));
    }

    private String tag(String id, int seen, Principal by, Model model, UnaryOperator<Confirmation> change) {
        UnaryOperator<RecorderDefinition> changed =
                recorder -> recorder.withConfirms(recorder.confirms().map(change));
        return page.change(id, seen, by.getName(), model, changed);
    }
}
