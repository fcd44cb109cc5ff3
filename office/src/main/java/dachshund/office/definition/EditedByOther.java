package dachshund.office.definition;

/** Somebody else saved the same thing since the page was loaded. */
public class EditedByOther extends RuntimeException {

    public EditedByOther(String who) {
        super(
                who
                        + " changed this after you opened it. Nothing of theirs is overwritten: look at the present state and make your change again.");
    }
}
