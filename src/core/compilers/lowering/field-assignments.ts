import type ts from 'typescript';
import { isDerived, isStaticMember } from './syntax.js';

/** Static properties that functions have, which cannot be assigned. */
const functionProperties: ReadonlySet<string> = new Set(['name', 'length', 'prototype', 'caller', 'arguments']);

/**
 * Writes fields of classes as assignments where these do the same as the definitions that the compiler has made of them
 * (ECMA-262, section 7.3.6): where neither the class nor one that it extends can have a setter of that name.
 */
export function fieldAssignments(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      const call = compiler.isExpressionStatement(visited) ? visited.expression : visited;
      const field = compiler.getOriginalNode(visited);
      if (!compiler.isCallExpression(call) || !isField(compiler, field)) return visited;
      const [target, key, descriptor] = call.arguments;
      const name = nameOf(compiler, field);
      if (!target || !key || !descriptor || name === undefined || !isPlain(compiler, field, name)) return visited;
      const value = compiler.isObjectLiteralExpression(descriptor) ? valueIn(compiler, descriptor) : undefined;
      if (!value) return visited;
      const isIdentifier = compiler.isIdentifier(field.name);
      const property = isIdentifier
        ? factory.createPropertyAccessExpression(target, name)
        : factory.createElementAccessExpression(target, key);
      const assignment = factory.createAssignment(property, value);
      const made = compiler.isExpressionStatement(visited)
        ? factory.createExpressionStatement(assignment)
        : factory.createParenthesizedExpression(assignment);
      return compiler.setOriginalNode(compiler.setTextRange(made, visited), visited);
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

/** A field, or a parameter that becomes one. */
type Field = ts.PropertyDeclaration | ts.ParameterDeclaration;

const isField = (compiler: typeof ts, node: ts.Node): node is Field =>
  compiler.isPropertyDeclaration(node) || compiler.isParameter(node);

/** The name of a field; undefined if it is computed or private. */
function nameOf(compiler: typeof ts, { name }: Field): string | undefined {
  return compiler.isIdentifier(name) || compiler.isStringLiteral(name) || compiler.isNumericLiteral(name)
    ? name.text
    : undefined;
}

function isPlain(compiler: typeof ts, field: Field, name: string): boolean {
  const outer = field as { readonly parent?: ts.Node };
  const parent = compiler.isParameter(field) ? outer.parent?.parent : outer.parent;
  if (!parent || !compiler.isClassLike(parent) || name === '__proto__') return false;
  if (isDerived(compiler, parent)) return false;
  const isStatic = isStaticMember(compiler, field);
  if (isStatic && functionProperties.has(name)) return false;
  return !parent.members.some(
    (member) =>
      compiler.isAccessor(member) &&
      isStaticMember(compiler, member) === isStatic &&
      (compiler.isComputedPropertyName(member.name) ||
        (!compiler.isPrivateIdentifier(member.name) && member.name.text === name)),
  );
}

function valueIn(compiler: typeof ts, { properties }: ts.ObjectLiteralExpression): ts.Expression | undefined {
  const last = properties.at(-1);
  const isValue =
    last && compiler.isPropertyAssignment(last) && compiler.isIdentifier(last.name) && last.name.text === 'value';
  return isValue ? last.initializer : undefined;
}
