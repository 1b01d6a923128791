using Microsoft.AspNetCore.Identity;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>Hashing and checking passwords.</summary>
public static class Passwords
{
    /// <summary>PBKDF2 with HMAC-SHA512 and 210,000 rounds (OWASP Password Storage Cheat Sheet, 2023). A hash with fewer is renewed at the
    /// next sign-in.</summary>
    private static readonly PasswordHasher<string> Hasher = new(
        Microsoft.Extensions.Options.Options.Create(new PasswordHasherOptions { IterationCount = 210_000 })
    );

    private static readonly string NobodysHash = Hasher.HashPassword("", Guid.NewGuid().ToString());

    private static readonly Lazy<HashSet<string>> Common = new(ReadCommon);

    public static string Hash(string password) => Hasher.HashPassword("", password);

    /// <summary>Checks a password. An unknown user, or one without a password, takes as long as a wrong password.</summary>
    public static async Task<bool> Verify(NpgsqlConnection db, UserRow? user, string? password)
    {
        var hash = user is null ? null : await UserStore.PasswordHash(db, user.Id);
        var given = (password ?? "").Length > PasswordRules.Max ? "" : password ?? "";
        var verified = Hasher.VerifyHashedPassword("", hash ?? NobodysHash, given);
        if (hash is null || verified == PasswordVerificationResult.Failed)
        {
            return false;
        }

        if (verified == PasswordVerificationResult.SuccessRehashNeeded)
        {
            await UserStore.SetPasswordHash(db, user!.Id, Hash(given));
        }

        return true;
    }

    /// <summary>Why a new password is refused, or null.</summary>
    public static Problem? Refuses(string? password, string login, string name, string? email, string company) =>
        PasswordRules.Refuses(password, Common.Value, [login, name, email, company, "steady", "lark"]);

    private static HashSet<string> ReadCommon()
    {
        using var reader = new StreamReader(typeof(Passwords).Assembly.GetManifestResourceStream("passwords/common.txt")!);
        return reader.ReadToEnd().Split('\n', StringSplitOptions.RemoveEmptyEntries).ToHashSet();
    }
}
