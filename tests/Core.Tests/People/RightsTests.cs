using CsCheck;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class RightsTests
{
    private static readonly Right[] Changing =
    [
        Right.LoadsBook,
        Right.LoadsCover,
        Right.LoadsRoll,
        Right.CompaniesEdit,
        Right.FleetEdit,
        Right.DocumentsAdd,
        Right.BillingInvoice,
        Right.BillingReceive,
        Right.PayingEnter,
        Right.PayingApprove,
        Right.PayingPay,
        Right.PayingAgree,
        Right.LedgerPost,
        Right.LedgerClose,
        Right.OutsideUse,
        Right.SetupEdit,
        Right.CreditEdit,
        Right.AuthorityEdit,
        Right.UsersEdit,
        Right.LimitExceed,
        Right.HoldsOverride,
    ];

    [Fact]
    public void Drivers_have_their_own_trips_and_nothing_else() =>
        Assert.Equal([Right.TripsOwn, Right.SessionOwn], Rights.Of(Role.Driver).Order());

    [Fact]
    public void Read_only_changes_nothing() => Assert.Empty(Rights.Of(Role.ReadOnly).Intersect(Changing));

    [Theory]
    [InlineData(Role.Dispatcher)]
    [InlineData(Role.Broker)]
    public void Dispatchers_and_brokers_send_no_money_and_see_no_pay(Role role) =>
        Assert.Empty(
            Rights
                .Of(role)
                .Intersect([
                    Right.PayingPay,
                    Right.PayingApprove,
                    Right.BillingReceive,
                    Right.PayingSee,
                    Right.WagesSee,
                    Right.LedgerSee,
                    Right.UsersEdit,
                ])
        );

    [Fact]
    public void Only_the_owner_has_users_audit_and_setup() =>
        Assert.All(Enum.GetValues<Role>().Where(r => r != Role.Owner), r =>
            Assert.Empty(Rights.Of(r).Intersect([Right.UsersEdit, Right.AuditSee, Right.SetupEdit, Right.LimitExceed]))
        );

    [Fact]
    public void Every_right_has_a_name_of_two_words_that_reads_back() => Assert.All(Enum.GetValues<Right>(), r =>
        {
            Assert.Matches("^[a-z]+\\.[a-z]+$", r.Name());
            Assert.Equal(r, Rights.Parse(r.Name()));
        });

    [Fact]
    public void The_role_editor_offers_every_right_but_those_that_follow_from_being_signed_in_or_a_driver() =>
        Assert.Equal(
            Enum.GetValues<Right>().Except([Right.TripsOwn, Right.SessionOwn]).Order(),
            Rights.Offered.Select(o => Rights.Parse(o.Name)!.Value).Order()
        );

    [Fact]
    public void Stored_rights_replace_the_standard_ones_and_unknown_names_are_nothing()
    {
        Assert.Equal(Rights.Of(Role.Broker), Rights.Of(Role.Broker, null));
        Assert.Equal([Right.LoadsSee, Right.SessionOwn], Rights.Of(Role.Broker, ["loads.see", "loads.fly"]).Order());
        Assert.Equal([Right.SessionOwn], Rights.Of(null, null));
    }

    [Fact]
    public void A_token_never_allows_more_than_its_user_or_than_itself() =>
        Gen.Select(Some, Some)
            .Sample(
                (user, token) =>
                {
                    var through = new Access(user).Through(token);
                    return through.Key == new Access(through.Rights).Key
                        && through.Rights.IsSubsetOf(user)
                        && through.Rights.IsSubsetOf(token)
                        && user.Intersect(token).All(through.Has);
                }
            );

    [Fact]
    public void Nobody_grants_a_right_they_do_not_have() =>
        Gen.Select(Some, Some)
            .Sample(
                (giver, given) =>
                    UserRules.RefusesRights(new Access(giver), given) is null
                    == given.All(r => giver.Contains(r) || r is Right.TripsOwn or Right.SessionOwn)
            );

    [Fact]
    public void Answers_are_shared_only_between_users_with_equal_rights() =>
        Gen.Select(Some, Some, Gen.Long[1, 3], Gen.Long[1, 3])
            .Sample((a, b, one, two) => new Access(a, one).Key == new Access(b, two).Key == (a.SetEquals(b) && one == two));

    private static Gen<HashSet<Right>> Some =>
        Gen.Int[0, Enum.GetValues<Right>().Length - 1].Select(i => Enum.GetValues<Right>()[i]).Array[0, 12].Select(r => r.ToHashSet());
}

public class UserRulesTests
{
    [Theory]
    [InlineData(true, true, false, 2, "user.self")]
    [InlineData(false, true, false, 1, "user.last.owner")]
    [InlineData(false, true, false, 2, null)]
    [InlineData(true, true, true, 1, null)]
    [InlineData(false, false, false, 1, null)]
    public void An_owner_remains_and_nobody_locks_themselves_out(bool self, bool was, bool stays, int owners, string? code) =>
        Assert.Equal(code, UserRules.Refuses(new UserChange(self, was, stays, owners))?.Code);

    [Theory]
    [InlineData("pat.lund", "pat@sixmile.example", null)]
    [InlineData("Pat", "pat@sixmile.example", null)]
    [InlineData("9pat", "pat@sixmile.example", "login")]
    [InlineData("p", "pat@sixmile.example", "login")]
    [InlineData("pat lund", "pat@sixmile.example", "login")]
    [InlineData("pat", "pat at sixmile", "email")]
    [InlineData("pat", "a@b.example, c@d.example", "email")]
    [InlineData("pat", "pat@sixmile.example\r\nBcc: x@y.example", "email")]
    public void Usernames_and_email(string login, string email, string? field)
    {
        var validation = new SteadyLark.Core.Basics.Validation();
        UserRules.Check(new UserDraft(login, "Pat Lund", email, 1), validation);
        Assert.Equal(field, validation.Problems.Select(p => p.Field).FirstOrDefault());
    }

    [Fact]
    public void A_role_needs_known_permissions()
    {
        var validation = new SteadyLark.Core.Basics.Validation();
        Assert.Equal([Right.LoadsSee], UserRules.Named(validation, ["loads.see"]));
        Assert.True(validation.Ok);
        UserRules.Named(validation, ["trips.own"]);
        UserRules.Named(validation, []);
        Assert.Equal(["right.unknown", "missing"], validation.Problems.Select(p => p.Code));
    }

    [Theory]
    [InlineData("1234567", "MC-123456", null)]
    [InlineData("1234567", "mc 123456", null)]
    [InlineData("12 34", null, "usdot")]
    [InlineData("123456789", null, "usdot")]
    [InlineData("1234567", "FF12", "mcNumber")]
    public void Authority_numbers(string usdot, string? mc, string? field)
    {
        var validation = new SteadyLark.Core.Basics.Validation();
        var company = CompanyRules.Check(
            new CompanyDraft("Sixmile Freight", "1 Mill Road", "406-555-0100", "a@sixmile.example", usdot, mc, "America/Chicago"),
            validation
        );
        Assert.Equal(field, validation.Problems.Select(p => p.Field).FirstOrDefault());
        Assert.True(field is not null || mc is null || company.McNumber == "123456");
    }

    [Theory]
    [InlineData("America/Chicago", true)]
    [InlineData("Mars/Olympus", false)]
    [InlineData(null, false)]
    public void A_company_has_a_time_zone(string? zone, bool ok)
    {
        var validation = new SteadyLark.Core.Basics.Validation();
        CompanyRules.Check(
            new CompanyDraft("Sixmile Freight", "1 Mill Road", "406-555-0100", "a@sixmile.example", null, null, zone),
            validation
        );
        Assert.Equal(ok, validation.Ok);
    }
}

public class PasswordRulesTests
{
    private static readonly HashSet<string> Common = ["dragon", "correcthorsebatterystaple", "iloveyou"];

    [Theory]
    [InlineData("Dragon123456!", "password.common")]
    [InlineData("CorrectHorseBatteryStaple", "password.common")]
    [InlineData("trucktrucktruck", "password.common")]
    [InlineData("aaaaaaaaaaaaaaaa", "password.common")]
    [InlineData("121212121212", "password.common")]
    [InlineData("1234567890123", "password.common")]
    [InlineData("abc20261124!!", "password.common")]
    [InlineData("short", "password.length")]
    [InlineData("elevenchars", "password.length")]
    [InlineData("", "missing")]
    [InlineData(null, "missing")]
    [InlineData("Pat.Lund-Sixmile1", "password.own")]
    [InlineData("nine gravel cottonwood", null)]
    [InlineData("Пятница вечером мост", null)]
    public void Refused_passwords(string? password, string? code) =>
        Assert.Equal(
            code,
            PasswordRules.Refuses(password, Common, ["pat.lund", "Pat Lund", "pat@sixmile.example", "Sixmile Freight"])?.Code
        );

    [Fact]
    public void A_refusal_says_what_to_choose_instead() =>
        Assert.Equal(
            "This password is too easy to guess: use several unrelated words.",
            PasswordRules.Refuses("trucktrucktruck", Common, [])!.Message
        );

    [Fact]
    public void Never_too_long() =>
        Assert.Equal("password.length", PasswordRules.Refuses(new string('x', 60) + new string('y', 69) + "abcdef", Common, [])?.Code);

    [Fact]
    public void Any_length_between_is_decided_without_a_failure() =>
        Gen.String[0, 140]
            .Sample(p =>
                PasswordRules.Refuses(p, Common, ["pat"]) is var refused
                && (p.Length is >= PasswordRules.Min and <= PasswordRules.Max || refused is not null)
            );
}

public class SessionRulesTests
{
    private static readonly NodaTime.Instant Now = NodaTime.Instant.FromUtc(2026, 11, 24, 16, 42);

    [Theory]
    [InlineData(0, false)]
    [InlineData(15, false)]
    [InlineData(16, true)]
    [InlineData(-1, true)]
    public void A_password_counts_for_fifteen_minutes(int minutesAgo, bool again) =>
        Assert.Equal(again, SessionRules.MustConfirm(Now - NodaTime.Duration.FromMinutes(minutesAgo), Now));
}

public class MoneyLimitTests
{
    [Theory]
    [InlineData(500, 500, false, false)]
    [InlineData(500.01, 500, false, true)]
    [InlineData(500.01, 500, true, false)]
    [InlineData(9_000_000, null, false, false)]
    public void One_person_alone_pays_up_to_the_limit(decimal amount, int? limit, bool mayExceed, bool refused) =>
        Assert.Equal(
            refused,
            MoneyLimit.Refuses(
                SoleMoney.Advance,
                SteadyLark.Core.Basics.Money.Usd(amount),
                limit is { } max ? SteadyLark.Core.Basics.Money.Usd(max) : null,
                r => mayExceed && r == Right.LimitExceed
            )
                is not null
        );
}
