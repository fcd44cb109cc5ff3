package dachshund.web.design;

import dachshund.core.definition.Definition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.util.List;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** A thing is removed from its own page, unless others name it. */
@Component
public class Removal {

    private final Definitions definitions;
    private final Drafts drafts;

    Removal(Definitions definitions, Drafts drafts) {
        this.definitions = definitions;
        this.drafts = drafts;
    }

    /**
     * @param what what it is, in a word
     * @param list the page of all of its kind; its own is below it
     * @return where to go then: to the list, or back to it where it is still used, with a sentence
     */
    public String remove(String id, String what, String list, String by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        if (!users.isEmpty()) {
            flash.addFlashAttribute(
                    "problem",
                    "This " + what + " is used by "
                            + users.stream().map(Definition::name).collect(Collectors.joining(", ")) + ".");
            return "redirect:" + list + "/" + id;
        }
        drafts.remove(id, by);
        return "redirect:" + list;
    }
}
