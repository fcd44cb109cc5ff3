package dachshund.web.notice;

import dachshund.core.notice.NoticeRule;
import dachshund.core.notice.Sort;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.SettingField;
import dachshund.engine.Engine;
import dachshund.engine.journal.Journal;
import dachshund.engine.notice.Notices;
import dachshund.engine.notice.Outbox;
import dachshund.links.notice.Smtp;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.setting.SettingsForm;
import jakarta.mail.MessagingException;
import java.io.IOException;
import java.security.Principal;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Who is told of what, and what became of it. */
@Needs(Right.SET_NOTICES)
@Controller
@RequestMapping("/people/notices")
class NoticeController {

    private static final int SHOWN = 100;

    private final Notices notices;
    private final Outbox outbox;
    private final Engine engine;
    private final MailSettings mail;
    private final SecretBox secrets;
    private final Audit audit;
    private final DemoMail demo;

    NoticeController(
            Notices notices,
            Outbox outbox,
            Engine engine,
            MailSettings mail,
            SecretBox secrets,
            Audit audit,
            DemoMail demo) {
        this.notices = notices;
        this.outbox = outbox;
        this.engine = engine;
        this.mail = mail;
        this.secrets = secrets;
        this.audit = audit;
        this.demo = demo;
    }

    @Needs(Right.SET_NOTICES)
    @GetMapping
    String show(Model model) {
        return page(SettingsForm.of(Smtp.fields(), mail.kept()), Map.of(), model);
    }

    private String page(SettingsForm form, Map<String, String> problems, Model model) {
        model.addAttribute("standing", notices.standing());
        model.addAttribute("trouble", notices.trouble());
        model.addAttribute("rules", notices.rules());
        model.addAttribute("waiting", outbox.waiting());
        model.addAttribute("sent", engine.local().notices().newest(SHOWN));
        model.addAttribute("mail", form);
        model.addAttribute("mailSet", !mail.kept().isEmpty());
        model.addAttribute("mailProblems", problems);
        model.addAttribute("mailbox", demo.there());
        return "notice/notices";
    }

    @PostMapping("/mail")
    String mail(@RequestParam Map<String, String> all, Principal by, Model model, RedirectAttributes flash) {
        Map<String, String> filled = new TreeMap<>(all);
        filled.put("id", MailSettings.THING);
        SettingsForm form = SettingsForm.read(Smtp.fields(), filled, secrets);
        Map<String, String> problems = new TreeMap<>(SettingField.problems(Smtp.fields(), form.settings()));
        Seals seals = new Seals(secrets);
        problems.putAll(form.askedAgain(MailSettings.THING, mail.kept(), seals));
        if (!problems.isEmpty()) {
            return page(form, problems, model);
        }
        mail.keep(form.sealed(MailSettings.THING, mail.kept(), seals, secrets));
        audit.note(by.getName(), "set the mail server", SettingField.place(Smtp.fields(), mail.kept()));
        outbox.lookAgain();
        flash.addFlashAttribute("said", "The mail server is set. Send a test of one of the rules to see it at work.");
        return "redirect:/people/notices";
    }

    @Needs(Right.SET_NOTICES)
    @GetMapping("/rules/{id}")
    String rule(@PathVariable String id, Model model) {
        return form(
                id.equals("new")
                        ? new NoticeRule(
                                "",
                                "",
                                NoticeRule.Way.MAIL,
                                "",
                                Set.of(),
                                false,
                                List.of(),
                                List.of(),
                                List.of(),
                                "",
                                "",
                                true)
                        : find(id),
                Map.of(),
                model);
    }

    private NoticeRule find(String id) {
        return notices.rules().stream()
                .filter(rule -> rule.id().equals(id))
                .findFirst()
                .orElseThrow(() -> new NoSuchElementException(id));
    }

    private String form(NoticeRule rule, Map<String, String> problems, Model model) {
        model.addAttribute("rule", rule);
        model.addAttribute("title", rule.id().isEmpty() ? "New rule" : rule.name());
        model.addAttribute("problems", problems);
        model.addAttribute("sorts", Sort.values());
        model.addAttribute("ways", NoticeRule.Way.values());
        return "notice/rule";
    }

    @PostMapping("/rules")
    String save(
            @RequestParam(defaultValue = "") String id,
            @RequestParam(defaultValue = "") String name,
            @RequestParam(defaultValue = "MAIL") NoticeRule.Way way,
            @RequestParam(defaultValue = "") String to,
            @RequestParam(required = false) Set<Sort> sorts,
            @RequestParam(defaultValue = "false") boolean alarmsOnly,
            @RequestParam(defaultValue = "") String things,
            @RequestParam(defaultValue = "") String folders,
            @RequestParam(defaultValue = "") String labels,
            @RequestParam(defaultValue = "") String quietFrom,
            @RequestParam(defaultValue = "") String quietTo,
            @RequestParam(defaultValue = "false") boolean alarmsWake,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        NoticeRule rule = new NoticeRule(
                id.isEmpty() ? "" : find(id).id(),
                name.strip(),
                way,
                to.strip(),
                sorts == null ? Set.of() : sorts,
                alarmsOnly,
                parts(things),
                parts(folders),
                parts(labels),
                quietFrom.strip(),
                quietTo.strip(),
                alarmsWake);
        if (!rule.problems().isEmpty()) {
            return form(rule, rule.problems(), model);
        }
        notices.change(id.isEmpty() ? withId(rule) : rule);
        audit.note(
                by.getName(),
                "changed a rule for notices",
                rule.name() + ", " + rule.way().words() + " to " + rule.to());
        flash.addFlashAttribute("said", "The rule \"" + rule.name() + "\" is kept.");
        return "redirect:/people/notices";
    }

    private static NoticeRule withId(NoticeRule rule) {
        return new NoticeRule(
                Definitions.newId(),
                rule.name(),
                rule.way(),
                rule.to(),
                rule.sorts(),
                rule.alarmsOnly(),
                rule.things(),
                rule.folders(),
                rule.labels(),
                rule.quietFrom(),
                rule.quietTo(),
                rule.alarmsWake());
    }

    private static List<String> parts(String text) {
        return Arrays.stream(text.split("[,\\r\\n]+"))
                .map(String::strip)
                .filter(each -> !each.isEmpty())
                .collect(Collectors.toList());
    }

    @PostMapping("/rules/{id}/test")
    String test(@PathVariable String id, Principal by, RedirectAttributes flash) {
        NoticeRule rule = find(id);
        try {
            notices.test(rule);
            audit.note(
                    by.getName(),
                    "sent a test notice",
                    rule.name() + ", " + rule.way().words() + " to " + rule.to());
            flash.addFlashAttribute(
                    "said", "A test is on its way to " + rule.to() + ". What became of it stands below.");
        } catch (Journal.Full full) {
            flash.addFlashAttribute("problem", "It was not taken: " + full.getMessage());
        }
        return "redirect:/people/notices";
    }

    @PostMapping("/rules/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        NoticeRule rule = find(id);
        notices.remove(id);
        audit.note(by.getName(), "removed a rule for notices", rule.name());
        flash.addFlashAttribute("said", "The rule \"" + rule.name() + "\" is removed. What was on its way still goes.");
        return "redirect:/people/notices";
    }

    @PostMapping("/look-again")
    String lookAgain(RedirectAttributes flash) {
        outbox.lookAgain();
        flash.addFlashAttribute("said", "What waits is tried now.");
        return "redirect:/people/notices";
    }

    /** The secret that receivers of webhooks check signatures with, shown to whom it is to be given by. */
    @PostMapping("/webhook-secret")
    String secret(Principal by, RedirectAttributes flash) {
        try {
            flash.addFlashAttribute("secret", mail.webhookSecret());
            audit.note(by.getName(), "looked at the secret of webhooks", "");
        } catch (IllegalArgumentException lost) {
            flash.addFlashAttribute("problem", lost.getMessage());
        }
        return "redirect:/people/notices";
    }

    @Needs(Right.SET_NOTICES)
    @GetMapping("/mailbox")
    String mailbox(Model model) {
        if (!demo.there()) {
            throw new NoSuchElementException("mailbox");
        }
        try {
            model.addAttribute("mails", Mailbox.newest(demo.imapPort()));
        } catch (MessagingException | IOException away) {
            model.addAttribute("mails", List.of());
            model.addAttribute("away", "The demo's mail server does not answer: " + away.getMessage());
        }
        return "notice/mailbox";
    }
}
