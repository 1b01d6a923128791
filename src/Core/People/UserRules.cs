using System.Text.RegularExpressions;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>A user as entered.</summary>
public sealed record UserDraft(string? Login, string? Name, string? Email, long? RoleId);

/// <summary>Facts that decide about a change to a user.</summary>
/// <param name="Self">Whether users change themselves.</param>
/// <param name="WasOwner">Whether they are an active owner now.</param>
/// <param name="StaysOwner">Whether they would be an active owner afterwards.</param>
/// <param name="ActiveOwners">How many active owners there are now.</param>
public sealed record UserChange(bool Self, bool WasOwner, bool StaysOwner, int ActiveOwners);

/// <summary>Rules for users and roles.</summary>
public static partial class UserRules
{
    public static void Check(UserDraft draft, Validation validation, string emailField = "email")
    {
        var login = validation.Text(draft.Login, "login", "Username", 60, required: true);
        if (login is not null && !Login().IsMatch(login.ToLowerInvariant()))
        {
            validation.Add(
                "login",
                "A username has 2 to 60 letters, digits, dots, dashes or underscores, and begins with a letter.",
                "login"
            );
        }

        validation.Text(draft.Name, "name", "Name", 100, required: true);
        Email(validation, draft.Email, required: true, emailField);
        if (draft.RoleId is null)
        {
            validation.Add("missing", "Choose a role.", "roleId");
        }
    }

    public static string? Email(Validation validation, string? value, bool required, string field = "email")
    {
        var email = validation.Text(value, field, "Email", 200, required);
        if (email is not null && !Address().IsMatch(email))
        {
            validation.Add("email", "Enter one email address, such as pat@example.com.", field);
        }

        return email;
    }

    /// <summary>Why a change to a user is refused; null when it is allowed. Nobody locks themselves out, and an owner always
    /// remains.</summary>
    public static Problem? Refuses(UserChange change) =>
        change is { WasOwner: true, StaysOwner: false, ActiveOwners: <= 1 }
            ? new Problem("user.last.owner", "This is the only owner: make another user an owner first.", "roleId")
        : change is { Self: true, WasOwner: true, StaysOwner: false }
            ? new Problem("user.self", "You cannot take your own owner role away: another owner can.", "roleId")
        : null;

    /// <summary>Whether a user may grant a role: nobody grants rights they do not have.</summary>
    public static Problem? RefusesRights(Access giver, IReadOnlySet<Right> given) =>
        given.Where(r => r is not (Right.TripsOwn or Right.SessionOwn) && !giver.Has(r)).Select(r => (Right?)r).FirstOrDefault()
            is { } missing
            ? new Problem("rights.beyond", $"You cannot give a permission that you do not have yourself: {missing.Name()}.", "rights")
            : null;

    /// <summary>The rights of a role or token, validated.</summary>
    public static IReadOnlySet<Right> Named(Validation validation, IReadOnlyList<string>? names)
    {
        var rights = new HashSet<Right>();
        foreach (var name in names ?? [])
        {
            if (Rights.Offered.Any(o => o.Name == name) && Rights.Parse(name) is { } right)
            {
                rights.Add(right);
            }
            else
            {
                validation.Add("right.unknown", $"'{(name ?? "")[..Math.Min((name ?? "").Length, 40)]}' is not a permission.", "rights");
                return rights;
            }
        }

        if (rights.Count == 0)
        {
            validation.Add("missing", "Choose at least one permission.", "rights");
        }

        return rights;
    }

    [GeneratedRegex("^[a-z][a-z0-9._-]{1,59}$")]
    private static partial Regex Login();

    [GeneratedRegex(@"^[^\s@,;<>""]{1,64}@[^\s@,;<>""]+\.[^\s@,;<>"".]{2,}$")]
    private static partial Regex Address();
}
