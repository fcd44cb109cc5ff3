package dachshund.web.work;

import dachshund.office.work.Work;
import dachshund.office.work.Works;
import dachshund.web.page.Sentences;
import java.security.Principal;
import java.time.Duration;
import org.springframework.security.concurrent.DelegatingSecurityContextCallable;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** What may take long: answered with its end where that comes soon, and with a page of its own, which can be left, where not. */
@Component
public class LongWork {

    private static final Duration SOON = Duration.ofMillis(1500);

    private final Works works;

    LongWork(Works works) {
        this.works = works;
    }

    /**
     * Begins it for the person of this request.
     *
     * @param title what it is, for a list
     * @param page  where it is begun
     * @return the page to show next
     * @throws RuntimeException what the work threw, where that came soon
     */
    public String begin(String title, Principal by, String page, RedirectAttributes flash, Works.Body body) {
        SecurityContext person = SecurityContextHolder.getContext();
        try {
            return next(
                    works.begin(title, by.getName(), page, SOON, progress -> new DelegatingSecurityContextCallable<>(
                                    () -> body.run(progress), person)
                            .call()),
                    flash);
        } catch (Works.Full full) {
            flash.addFlashAttribute("problem", full.getMessage());
            return "redirect:" + page;
        }
    }

    /** The page of what came of it; of itself where it goes on. */
    static String next(Work work, RedirectAttributes flash) {
        if (!work.state().over()) {
            return "redirect:/work/" + work.id();
        }
        work.look();
        if (work.problem().isPresent()) {
            throw asThrown(work.problem().get());
        }
        work.outcome()
                .ifPresent(outcome -> flash.addFlashAttribute(outcome.went() ? "said" : "problem", outcome.sentence()));
        return "redirect:" + work.page();
    }

    private static RuntimeException asThrown(Throwable thrown) {
        if (thrown instanceof Error error) {
            throw error;
        }
        return thrown instanceof RuntimeException as ? as : new IllegalStateException(thrown);
    }

    /** What a page says of work: how far it is, or what came of it. */
    static void show(Work work, boolean over, Model model) {
        model.addAttribute("work", work);
        model.addAttribute("over", over);
        model.addAttribute("why", work.problem().map(Sentences::of).orElse(""));
    }
}
