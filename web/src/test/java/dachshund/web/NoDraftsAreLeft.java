package dachshund.web;

import org.junit.jupiter.api.extension.AfterAllCallback;
import org.junit.jupiter.api.extension.ExtensionContext;

/** After each class that shares {@link Site#demo}: a release of the next one has no more in it than its own drafts. */
public final class NoDraftsAreLeft implements AfterAllCallback {

    @Override
    public void afterAll(ExtensionContext context) {
        Site.discardDrafts();
    }
}
