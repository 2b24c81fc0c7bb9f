using JollyAlmanac.Application.Joining;
using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Binds the fields of a group within a form by their own names: the address of <c>LinkInput.Room</c> is the field "Address", where it
/// would be "Room.Address".
/// </summary>
public sealed class GroupsOfFields : IBindingMetadataProvider
{
    /// <inheritdoc />
    public void CreateBindingMetadata(BindingMetadataProviderContext context)
    {
        var form = context.Key.ContainerType ?? context.Key.ParameterInfo?.Member.DeclaringType;
        if (
            form?.Assembly == typeof(LinkInput).Assembly
            && context.Key.ModelType.Assembly == typeof(LinkInput).Assembly
            && context.Key.ModelType.Name.EndsWith("Input", StringComparison.Ordinal)
        )
            context.BindingMetadata.BinderModelName = "";
    }
}
